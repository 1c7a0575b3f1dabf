import type { ReactNode } from "react";
import { useMayChange } from "./mayChange";

/** Does something; what changes the service is only there for those who may change it. */
export function Button(props: {
  onClick: () => void;
  busy?: boolean;
  main?: boolean;
  changes?: boolean;
  children: ReactNode;
}) {
  const mayChange = useMayChange();
  if (props.changes && !mayChange) return null;
  const look = props.main
    ? "border-accent bg-accent text-surface hover:opacity-90"
    : "border-line bg-surface hover:border-quiet disabled:text-quiet";
  return (
    <button
      type="button"
      onClick={props.onClick}
      disabled={props.busy}
      className={`inline-flex items-center gap-1.5 rounded border px-3 py-1 disabled:opacity-60 ${look}`}
    >
      {props.children}
    </button>
  );
}
