import { Check, ChevronDown } from "lucide-react";
import { Select } from "radix-ui";

interface Option {
  value: string;
  label: string;
}

/** Chooses one of a few things. */
export function Pick(props: {
  label: string;
  value: string;
  options: Option[];
  onPick: (value: string) => void;
}) {
  return (
    <Select.Root value={props.value} onValueChange={props.onPick}>
      <Select.Trigger
        aria-label={props.label}
        className="inline-flex items-center justify-between gap-2 rounded border border-line bg-surface px-2.5 py-1.5 hover:border-quiet"
      >
        <Select.Value />
        <Select.Icon>
          <ChevronDown size={15} aria-hidden />
        </Select.Icon>
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={4}
          className="z-10 max-h-80 min-w-(--radix-select-trigger-width) overflow-hidden rounded border border-line bg-surface shadow-lg"
        >
          <Select.Viewport className="p-1">
            {props.options.map((option) => (
              <Select.Item
                key={option.value}
                value={option.value}
                className="flex cursor-pointer items-center gap-2 rounded px-2 py-1 pr-6 data-[highlighted]:bg-wash data-[highlighted]:outline-none"
              >
                <span className="w-4">
                  <Select.ItemIndicator>
                    <Check size={14} aria-hidden />
                  </Select.ItemIndicator>
                </span>
                <Select.ItemText>{option.label}</Select.ItemText>
              </Select.Item>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}
