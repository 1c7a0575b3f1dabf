import { t } from "@lingui/core/macro";

/** Numbers in the browser's language, and times in the reader's zone. */

const WHOLE = new Intl.NumberFormat();
const ONE_DIGIT = new Intl.NumberFormat(undefined, {
  minimumFractionDigits: 1,
  maximumFractionDigits: 1,
});
const PERCENT = new Intl.NumberFormat(undefined, { style: "percent" });
const PERCENT_OF_FEW = new Intl.NumberFormat(undefined, {
  style: "percent",
  minimumFractionDigits: 1,
  maximumFractionDigits: 1,
});

export const count = (n: number) => WHOLE.format(n);

export const percent = (part: number, whole: number) =>
  whole === 0
    ? "–"
    : (part > 0 && part * 10 < whole ? PERCENT_OF_FEW : PERCENT).format(part / whole);

/** With one digit after the point. */
export const decimal = (n: number) => ONE_DIGIT.format(n);

export const millis = (n: number) =>
  n < 0 ? "–" : n < 10_000 ? t`${count(n)} ms` : t`${count(Math.round(n / 1000))} s`;

export function megabytes(bytes: number): string {
  return t`${ONE_DIGIT.format(bytes / 1e6)} MB`;
}

const TIME_OF_DAY = new Intl.DateTimeFormat(undefined, {
  hour: "2-digit",
  minute: "2-digit",
  second: "2-digit",
  fractionalSecondDigits: 3,
  // With "hour12: false" the day begins with 24:00 in American English.
  hourCycle: "h23",
});
const TIME = new Intl.DateTimeFormat(undefined, { timeStyle: "medium" });
const DATE_AND_TIME = new Intl.DateTimeFormat(undefined, {
  dateStyle: "medium",
  timeStyle: "medium",
});

/** Time of day with milliseconds, in the reader's zone. */
export const timeOfDay = (iso: string) => TIME_OF_DAY.format(new Date(iso));

/** In the reader's zone and language: the time of day, and the date unless it is today. */
export function moment(iso: string, now: Date): string {
  const date = new Date(iso);
  const today = date.toDateString() === now.toDateString();
  return (today ? TIME : DATE_AND_TIME).format(date);
}

/** How long ago, in one unit. */
export function ago(iso: string, now: number): string {
  const seconds = Math.max(0, (now - Date.parse(iso)) / 1000);
  if (seconds < 2) return t`just now`;
  if (seconds < 120) return t`${Math.round(seconds)} s ago`;
  if (seconds < 7200) return t`${Math.round(seconds / 60)} min ago`;
  if (seconds < 172_800) return t`${Math.round(seconds / 3600)} h ago`;
  return t`${Math.round(seconds / 86_400)} days ago`;
}
