import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Definition } from "../api";
import { Asking, ErrorNotice } from "./notice";
import { At } from "./time";

const SHOWN = 12;

/** The versions of a definition: who made each, when, and show changes. */
export function Versions({ definition }: { definition: Definition }) {
  const { kind, name, version } = definition;
  const [open, setOpen] = useState<number>();
  const versions = useQuery({
    queryKey: ["versions", kind, name, version],
    queryFn: () => api.versions(kind, name),
  });
  if (versions.error) return <ErrorNotice error={versions.error} />;
  return (
    <section className="rounded border border-line bg-surface px-4 py-3" aria-label={t`Versions`}>
      <h2 className="text-lg font-semibold">
        <Trans>Versions</Trans>
      </h2>
      <ul className="mt-1">
        {versions.data?.slice(0, SHOWN).map((one) => (
          <li key={one.version} className="border-t border-line py-1">
            <div className="flex flex-wrap gap-x-3">
              <span className="w-8 text-right font-semibold">{one.version}</span>
              <At iso={one.createdAt} />
              <span className="text-quiet">{one.author || t`nobody said who`}</span>
              {one.version > 1 && (
                <button
                  type="button"
                  className="ml-auto text-accent underline"
                  aria-expanded={open === one.version}
                  onClick={() => setOpen(open === one.version ? undefined : one.version)}
                >
                  <Trans>show changes</Trans>
                </button>
              )}
            </div>
            {open === one.version && <Changed kind={kind} name={name} version={one.version} />}
          </li>
        ))}
      </ul>
      {(versions.data?.length ?? 0) > SHOWN && (
        <p className="text-quiet">
          <Trans>
            {t`mnemex definitions ${kind} ${name}`} lists all {versions.data?.length} of them.
          </Trans>
        </p>
      )}
    </section>
  );
}

function Changed(props: { kind: string; name: string; version: number }) {
  const compared = useQuery({
    queryKey: ["differences", props.kind, props.name, props.version],
    queryFn: () => api.differences(props.kind, props.name, props.version - 1, props.version),
    staleTime: Infinity,
  });
  if (compared.error) return <ErrorNotice error={compared.error} />;
  if (!compared.data) return <Asking />;
  const { differences, lines } = compared.data;
  return (
    <div className="mt-1 mb-2 rounded bg-ground px-3 py-2">
      {differences.length === 0 && lines.length === 0 && (
        <p>
          <Trans>The text is unchanged; an analyser or the source it uses changed.</Trans>
        </p>
      )}
      <ul>
        {differences.map((difference) => (
          <li key={difference.path}>
            <code className="font-mono text-sm">{difference.path}</code>: {difference.reason}
          </li>
        ))}
      </ul>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls is reached by keyboard */}
      <pre className="mt-1 overflow-x-auto text-sm" tabIndex={0}>
        {lines.slice(2).map((line, i) => (
          <span
            // biome-ignore lint/suspicious/noArrayIndexKey: lines may repeat, and do not move
            key={i}
            className={`block ${line.startsWith("+") ? "text-accent" : line.startsWith("-") ? "text-bad" : "text-quiet"}`}
          >
            {line}
          </span>
        ))}
      </pre>
    </div>
  );
}
