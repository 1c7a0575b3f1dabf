import { expect, test } from "vitest";
import { ago, megabytes, moment, timeOfDay } from "../format";
import { withHoles } from "./analysers";

const token = (text: string, position: number) => ({
  text,
  position,
  start: 0,
  end: 1,
  span: 1,
  joined: false,
});

test("a stopword leaves a visible hole", () => {
  const tokens = [token("fern", 1), token("shade", 3)];
  expect(withHoles(tokens).map((t) => t?.text)).toEqual([undefined, "fern", undefined, "shade"]);
});

test("numbers as people read them", () => {
  expect(megabytes(1_250_000)).toBe("1.3 MB");
  const now = Date.parse("2026-05-04T10:00:00Z");
  expect(ago("2026-05-04T09:59:59.500Z", now)).toBe("just now");
  expect(ago("2026-05-04T09:59:00Z", now)).toBe("60 s ago");
  expect(ago("2026-05-04T09:00:00Z", now)).toBe("60 min ago");
  expect(ago("2026-05-01T10:00:00Z", now)).toBe("3 days ago");
  const noon = new Date(2026, 4, 4, 12, 0, 0);
  expect(moment(noon.toISOString(), noon)).toBe("12:00:00 PM");
  expect(moment(noon.toISOString(), new Date(2026, 4, 5))).toBe("May 4, 2026, 12:00:00 PM");
  expect(timeOfDay(noon.toISOString())).toBe("12:00:00.000");
  expect(timeOfDay(new Date(2026, 4, 4, 0, 3).toISOString())).toBe("00:03:00.000");
});
