import { t } from "@lingui/core/macro";
import { Check, Copy, X } from "lucide-react";
import { useState } from "react";

/** Puts a text into the clipboard, and says so. Browsers refuse it on pages without TLS. */
export function CopyButton(props: { what: string; text: () => string; children?: string }) {
  const [done, setDone] = useState<string>();
  const [refused, setRefused] = useState(false);
  const title = props.children ?? t`Copy`;
  const copied = done !== undefined && done === props.text();
  const Sign = refused ? X : copied ? Check : Copy;
  return (
    <button
      type="button"
      aria-label={`${title} ${props.what}`}
      className="inline-flex shrink-0 items-center gap-1 rounded border border-line px-2 py-0.5 text-sm hover:border-quiet"
      onClick={async () => {
        const text = props.text();
        try {
          await navigator.clipboard.writeText(text);
          setRefused(false);
          setDone(text);
        } catch {
          setRefused(true);
        }
      }}
    >
      <Sign size={14} aria-hidden />
      <span aria-live="polite">
        {refused ? t`Refused by the browser` : copied ? t`Copied` : title}
      </span>
    </button>
  );
}
