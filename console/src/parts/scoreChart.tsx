import { t } from "@lingui/core/macro";
import {
  CartesianGrid,
  Legend,
  Line,
  LineChart,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from "recharts";
import type { ScoreEntry } from "../api";
import { moment } from "../format";

/** What a scorecard came to, time after time. */
export default function ScoreChart({ entries }: { entries: ScoreEntry[] }) {
  const points = entries.map((entry, place) => ({
    place: place + 1,
    title: t`edition ${entry.edition}, ${moment(entry.at, new Date())}`,
    nDCG: Number(entry.ndcg.toFixed(3)),
    MRR: Number(entry.reciprocalRank.toFixed(3)),
  }));
  return (
    <figure className="mt-3 h-48" aria-label={t`Scores, oldest first`}>
      <ResponsiveContainer>
        <LineChart data={points} margin={{ top: 6, right: 12, bottom: 4, left: -12 }}>
          <CartesianGrid stroke="var(--line)" vertical={false} />
          <XAxis dataKey="title" tick={{ fontSize: 12 }} stroke="var(--quiet)" minTickGap={40} />
          <YAxis domain={[0, 1]} tick={{ fontSize: 12 }} stroke="var(--quiet)" />
          <Tooltip />
          <Legend />
          <Line dataKey="nDCG" stroke="var(--accent)" strokeWidth={2} isAnimationActive={false} />
          <Line
            dataKey="MRR"
            stroke="var(--quiet)"
            strokeDasharray="4 3"
            isAnimationActive={false}
          />
        </LineChart>
      </ResponsiveContainer>
    </figure>
  );
}
