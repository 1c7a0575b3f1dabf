import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import {
  Area,
  AreaChart,
  CartesianGrid,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from "recharts";
import { api } from "../api";
import { count, millis } from "../format";

const clock = (at: number) => new Date(at).toTimeString().slice(0, 8);

/** Lag and rate of a feed over the last ten minutes. A page of its own, because charts are large. */
export default function FeedCharts({ index }: { index: string }) {
  const history = useQuery({
    queryKey: ["feedHistory", index],
    queryFn: () => api.feedHistory(index),
    refetchInterval: 2000,
  });
  const points = (history.data ?? []).map((point) => ({
    at: Date.parse(point.at),
    changes: point.changes,
    lag: point.lagMillis ?? 0,
  }));
  if (points.length < 2) {
    return (
      <p className="text-quiet">
        <Trans>Charts appear once the feed has run for a few seconds.</Trans>
      </p>
    );
  }
  const worst = Math.max(...points.map((p) => p.lag));
  const most = Math.max(...points.map((p) => p.changes));
  return (
    <div className="grid gap-4 md:grid-cols-2">
      <Chart
        title={t`Maximum lag from commit to visible`}
        note={t`at most ${millis(worst)} in the last ten minutes`}
        points={points}
        value="lag"
        format={millis}
      />
      <Chart
        title={t`Records updated per second`}
        note={t`at most ${count(most)}`}
        points={points}
        value="changes"
        format={count}
      />
    </div>
  );
}

function Chart(props: {
  title: string;
  note: string;
  points: { at: number; lag: number; changes: number }[];
  value: "lag" | "changes";
  format: (value: number) => string;
}) {
  return (
    <figure className="rounded border border-line bg-surface px-3 pt-2 pb-1">
      <figcaption className="flex flex-wrap justify-between gap-x-3">
        <span className="font-semibold">{props.title}</span>
        <span className="text-sm text-quiet">{props.note}</span>
      </figcaption>
      <ResponsiveContainer width="100%" height={150}>
        <AreaChart data={props.points} margin={{ top: 8, right: 8, bottom: 0, left: 0 }}>
          <CartesianGrid vertical={false} stroke="var(--line)" />
          <XAxis
            dataKey="at"
            type="number"
            domain={["dataMin", "dataMax"]}
            tickFormatter={clock}
            tick={{ fill: "var(--quiet)", fontSize: 12 }}
            stroke="var(--line)"
            minTickGap={60}
          />
          <YAxis
            tickFormatter={props.format}
            tick={{ fill: "var(--quiet)", fontSize: 12 }}
            stroke="var(--line)"
            width={64}
            allowDecimals={false}
          />
          <Tooltip
            labelFormatter={(at) => clock(Number(at))}
            formatter={(value) => [props.format(Number(value)), ""]}
            separator=""
            contentStyle={{ background: "var(--surface)", borderColor: "var(--line)" }}
          />
          <Area
            dataKey={props.value}
            stroke="var(--accent)"
            fill="var(--accent)"
            fillOpacity={0.25}
            type="stepAfter"
            isAnimationActive={false}
            dot={false}
          />
        </AreaChart>
      </ResponsiveContainer>
    </figure>
  );
}
