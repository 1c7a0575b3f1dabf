import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { ShieldAlert, ShieldCheck } from "lucide-react";
import { api } from "../api";
import { useMayChange } from "./mayChange";
import { ErrorNotice } from "./notice";
import { At } from "./time";

/** The last proof that an index says what its database says, and a way to ask for another. */
export function AuditLine({ index }: { index: string }) {
  const mayChange = useMayChange();
  const queries = useQueryClient();
  const audits = useQuery({
    queryKey: ["audits", index],
    queryFn: () => api.audits(index),
    refetchInterval: (query) => (query.state.data?.[0]?.state === "running" ? 500 : 10_000),
  });
  const begin = useMutation({
    mutationFn: () => api.audit(index),
    onSettled: () => queries.invalidateQueries({ queryKey: ["audits", index] }),
  });
  const last = audits.data?.[0];
  const running = begin.isPending || last?.state === "running";
  const bad = last?.state === "failed" || last?.clean === false;
  const differing = [
    ...(last?.result?.missing ?? []),
    ...(last?.result?.stale ?? []),
    ...(last?.result?.extra ?? []),
    ...(last?.result?.needless ?? []),
  ];
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 border-t border-line px-4 py-2.5">
      {bad ? (
        <ShieldAlert size={18} className="text-warn" aria-hidden />
      ) : (
        <ShieldCheck size={18} className={last?.clean ? "text-accent" : "text-quiet"} aria-hidden />
      )}
      <output className={bad ? "text-warn" : ""}>
        {running ? (
          t`Comparing every record with the database …`
        ) : last ? (
          <Trans>
            Audit of <At iso={last.started} />: {last.statement}
          </Trans>
        ) : (
          t`Never audited. Run an audit to prove that the index matches the database.`
        )}
        {differing.length > 0 && !running && (
          <span className="block">
            {differing.slice(0, 5).join(", ")}
            {differing.length > 5 && ", …"}
          </span>
        )}
      </output>
      {mayChange && (
        <button
          type="button"
          disabled={running}
          onClick={() => begin.mutate()}
          className="ml-auto rounded border border-line bg-ground px-3 py-1 disabled:text-quiet"
        >
          <Trans>Audit now</Trans>
        </button>
      )}
      {begin.error && <ErrorNotice error={begin.error} />}
    </div>
  );
}
