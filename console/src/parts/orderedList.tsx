import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { ArrowDown, ArrowUp, X } from "lucide-react";
import type { ReactNode } from "react";

const ACT = "rounded p-1 text-quiet hover:bg-wash hover:text-ink disabled:opacity-30";

/** Things in an order that can be changed, and what may be added to them. */
export function OrderedList(props: {
  title: string;
  items: string[];
  /** What else is shown of an item. */
  detail?: (item: string, at: number) => ReactNode;
  /** What may be added. */
  offers: string[];
  onMove: (from: number, to: number) => void;
  onRemove: (at: number) => void;
  onAdd: (item: string) => void;
}) {
  const { title, items } = props;
  return (
    <section aria-label={title}>
      <h3 className="font-semibold">{title}</h3>
      <ol className="mt-0.5">
        {items.map((item, at) => (
          <li key={item} className="flex items-center gap-2 border-t border-line py-0.5">
            <span className="min-w-0 break-words">{item}</span>
            <span className="flex min-w-0 grow items-center gap-2 text-sm text-quiet">
              {props.detail?.(item, at)}
            </span>
            <button
              type="button"
              className={ACT}
              aria-label={t`Move ${item} up`}
              disabled={at === 0}
              onClick={() => props.onMove(at, at - 1)}
            >
              <ArrowUp size={14} aria-hidden />
            </button>
            <button
              type="button"
              className={ACT}
              aria-label={t`Move ${item} down`}
              disabled={at === items.length - 1}
              onClick={() => props.onMove(at, at + 1)}
            >
              <ArrowDown size={14} aria-hidden />
            </button>
            <button
              type="button"
              className={ACT}
              aria-label={t`Remove ${item}`}
              onClick={() => props.onRemove(at)}
            >
              <X size={14} aria-hidden />
            </button>
          </li>
        ))}
      </ol>
      {props.offers.length > 0 && (
        <select
          aria-label={t`Add to ${title.toLowerCase()}`}
          className="mt-1 rounded border border-line bg-surface px-2 py-0.5 text-sm"
          value=""
          onChange={(event) => props.onAdd(event.target.value)}
        >
          <option value="">
            <Trans>add …</Trans>
          </option>
          {props.offers.map((offer) => (
            <option key={offer}>{offer}</option>
          ))}
        </select>
      )}
    </section>
  );
}
