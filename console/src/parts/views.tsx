import { Tabs } from "radix-ui";

/** Chooses one of several views; stands inside the root of the tabs. */
export function Views(props: { label: string; views: { value: string; title: string }[] }) {
  return (
    <Tabs.List aria-label={props.label} className="flex flex-wrap gap-1">
      {props.views.map((view) => (
        <Tabs.Trigger
          key={view.value}
          value={view.value}
          className="rounded px-2.5 py-1 text-quiet hover:text-ink data-[state=active]:bg-wash data-[state=active]:font-semibold data-[state=active]:text-accent"
        >
          {view.title}
        </Tabs.Trigger>
      ))}
    </Tabs.List>
  );
}
