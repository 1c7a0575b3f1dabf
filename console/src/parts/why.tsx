import { t } from "@lingui/core/macro";
import type { Explanation } from "../api";

const HOW = { SUM: t`the sum of`, PRODUCT: t`the product of`, FORMULA: t`of` };

/** A number with the numbers it is made of. */
export function Why({ part }: { part: Explanation }) {
  return (
    <li>
      <span className="inline-block w-16 text-right font-semibold tabular-nums">
        {part.matched ? part.value.toFixed(3) : t`no`}
      </span>{" "}
      {part.what}
      {part.how && part.parts.length > 0 && (
        <span className="text-quiet">
          {", "}
          {HOW[part.how]}
        </span>
      )}
      {part.parts.length > 0 && (
        <ul className="ml-8 border-l border-line pl-1">
          {part.parts.map((inner, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: parts of a fixed explanation
            <Why key={i} part={inner} />
          ))}
        </ul>
      )}
    </li>
  );
}
