import { Trans } from "@lingui/react/macro";
import { CircleAlert } from "lucide-react";
import type { ReactNode } from "react";
import { Problem } from "../api";

/** Something that a person should know or do. */
export function Notice(props: { tone: "bad" | "warn"; children: ReactNode }) {
  const colours =
    props.tone === "bad" ? "bg-bad-wash text-bad border-bad" : "bg-warn-wash text-warn border-warn";
  return (
    <div
      role={props.tone === "bad" ? "alert" : "status"}
      className={`flex items-start gap-2 rounded border-l-4 px-3 py-2 ${colours}`}
    >
      <CircleAlert size={18} className="mt-0.5 shrink-0" aria-hidden />
      <div>{props.children}</div>
    </div>
  );
}

/** A page that has nothing to show yet. */
export function Waiting(props: { connected: boolean }) {
  return props.connected ? <Asking /> : <Unreachable />;
}

function Unreachable() {
  return (
    <Notice tone="bad">
      <Trans>The service is unreachable. Is it running?</Trans>
    </Notice>
  );
}

/** Something that the service has not answered yet. */
export function Asking() {
  return (
    <p className="text-quiet">
      <Trans>Asking the service …</Trans>
    </p>
  );
}

/** An error of a call. */
export function ErrorNotice(props: { error: unknown }) {
  const error = props.error;
  if (error instanceof Problem) {
    return (
      <Notice tone={error.status === 503 ? "warn" : "bad"}>
        {error.detail}
        {error.suggestion && !error.detail.includes("did you mean") && (
          <Trans> – did you mean “{error.suggestion}”?</Trans>
        )}
      </Notice>
    );
  }
  return <Unreachable />;
}
