import { timeOfDay } from "../format";

const EXACT = new Intl.DateTimeFormat(undefined, { dateStyle: "full", timeStyle: "full" });

/**
 * The time of day in the reader's zone; the date and the zone on hover.
 *
 * @param props.iso ISO 8601
 */
export function At({ iso }: { iso: string }) {
  return (
    <time dateTime={iso} title={`${EXACT.format(new Date(iso))}, ${iso}`}>
      {timeOfDay(iso)}
    </time>
  );
}
