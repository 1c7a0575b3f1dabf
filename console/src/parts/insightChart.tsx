import { t } from "@lingui/core/macro";
import {
  Area,
  AreaChart,
  CartesianGrid,
  Legend,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from "recharts";
import type { SearchesAt } from "../api";
import { count } from "../format";

const HOUR_LENGTH = 13;
const BY_HOUR = new Intl.DateTimeFormat(undefined, {
  weekday: "short",
  hour: "2-digit",
  hourCycle: "h23",
});
const BY_DAY = new Intl.DateTimeFormat(undefined, {
  day: "numeric",
  month: "short",
  timeZone: "UTC",
});

/** An hour in the reader's zone, or a day, which is one in UTC. */
const told = (time: string) =>
  time.length === HOUR_LENGTH
    ? `${BY_HOUR.format(new Date(`${time}:00:00Z`))} h`
    : BY_DAY.format(new Date(`${time}T00:00:00Z`));

/** Searches over time by what became of them. A part of its own, because charts are large. */
export default function InsightChart({ times }: { times: SearchesAt[] }) {
  const points = times.map((at) => ({
    time: at.time,
    opened: at.opened,
    found: at.searches - at.opened - at.withoutResults,
    nothing: at.withoutResults,
  }));
  return (
    <ResponsiveContainer width="100%" height={200}>
      <AreaChart data={points} margin={{ top: 8, right: 8, bottom: 0, left: 0 }}>
        <CartesianGrid vertical={false} stroke="var(--line)" />
        <XAxis
          dataKey="time"
          tickFormatter={told}
          tick={{ fill: "var(--quiet)", fontSize: 12 }}
          stroke="var(--line)"
          minTickGap={50}
        />
        <YAxis
          tickFormatter={count}
          tick={{ fill: "var(--quiet)", fontSize: 12 }}
          stroke="var(--line)"
          width={56}
          allowDecimals={false}
        />
        <Tooltip
          labelFormatter={(time) => told(String(time))}
          formatter={(value) => count(Number(value))}
          contentStyle={{ background: "var(--surface)", borderColor: "var(--line)" }}
        />
        <Legend
          iconType="square"
          formatter={(name) => <span className="text-ink">{String(name)}</span>}
        />
        <Layer of="opened" name={t`a result was opened`} color="var(--accent)" />
        <Layer of="found" name={t`found, nothing opened`} color="var(--quiet)" />
        <Layer of="nothing" name={t`no results`} color="var(--bad)" />
      </AreaChart>
    </ResponsiveContainer>
  );
}

/** One of the layers, which stand on each other. */
function Layer(props: { of: string; name: string; color: string }) {
  return (
    <Area
      dataKey={props.of}
      name={props.name}
      stackId="all"
      stroke={props.color}
      fill={props.color}
      fillOpacity={0.35}
      type="linear"
      isAnimationActive={false}
      dot={false}
    />
  );
}
