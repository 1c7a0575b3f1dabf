import type { ReactNode } from "react";

/** What may be wider than the page; it is then scrolled, also by keyboard. */
export function Scrolled(props: { label: string; className?: string; children: ReactNode }) {
  return (
    <section
      className={`overflow-x-auto ${props.className ?? ""}`}
      aria-label={props.label}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls is reached by keyboard
      tabIndex={0}
    >
      {props.children}
    </section>
  );
}
