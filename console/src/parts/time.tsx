import { ago, moment, timeOfDay } from "../format";

const EXACT = new Intl.DateTimeFormat(undefined, { dateStyle: "full", timeStyle: "full" });

function Shown({ iso, children }: { iso: string; children: string }) {
  return (
    <time dateTime={iso} title={`${EXACT.format(new Date(iso))}, ${iso}`}>
      {children}
    </time>
  );
}

/**
 * A moment in the reader's zone: the time of day, and the date unless it is today; exactly, with
 * the zone, on hover.
 *
 * @param props.iso ISO 8601
 */
export function At({ iso }: { iso: string }) {
  return <Shown iso={iso}>{moment(iso, new Date())}</Shown>;
}

/** A moment of the last seconds: the time of day with milliseconds; exactly on hover. */
export function JustAt({ iso }: { iso: string }) {
  return <Shown iso={iso}>{timeOfDay(iso)}</Shown>;
}

/** How long ago; the moment itself on hover. */
export function Ago({ iso }: { iso: string }) {
  return <Shown iso={iso}>{ago(iso, Date.now())}</Shown>;
}
