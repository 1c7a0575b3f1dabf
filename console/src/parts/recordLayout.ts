import { t } from "@lingui/core/macro";
import type { IndexTable } from "../api";

export const BOX_WIDTH = 216;
export const LINE_HEIGHT = 20;
const HEAD = 34;
const FOOT = 8;
const GAP_X = 96;
const GAP_Y = 14;

/** From a table to the line from which its rows branch off. */
const TRUNK = 28;

export interface Box {
  table: IndexTable;
  /** Short sentences under the columns. */
  notes: string[];
  x: number;
  y: number;
  height: number;
}

export interface Layout {
  boxes: Box[];
  /** Lines from a table to the rows that belong to it. */
  lines: { name: string; path: string; many: boolean; x: number; y: number }[];
  width: number;
  height: number;
}

/** Where the tables of a record stand: the root at the left, what belongs to it in further rows. */
export function layout(tables: IndexTable[]): Layout {
  const boxes: Box[] = [];
  const below: number[] = [];
  const depths = new Map<string, number>();
  for (const table of tables) {
    const depth = table.of === undefined ? 0 : (depths.get(table.of) ?? 0) + 1;
    depths.set(table.name, depth);
    const notes = remarks(table);
    const height = HEAD + (table.columns.length + notes.length) * LINE_HEIGHT + FOOT;
    const y = below[depth] ?? 0;
    below[depth] = y + height + GAP_Y;
    boxes.push({ table, notes, x: depth * (BOX_WIDTH + GAP_X), y, height });
  }
  const lines = boxes.flatMap((box) => {
    const owner = boxes.find((other) => other.table.name === box.table.of);
    if (!owner || owner === box) return [];
    const from = { x: owner.x + BOX_WIDTH, y: owner.y + HEAD / 2 };
    const to = { x: box.x, y: box.y + HEAD / 2 };
    const path = `M${from.x},${from.y} H${from.x + TRUNK} V${to.y} H${to.x}`;
    return [{ name: box.table.name, path, many: box.table.many, x: to.x, y: to.y }];
  });
  return {
    boxes,
    lines,
    width: Math.max(0, ...boxes.map((box) => box.x + BOX_WIDTH)),
    height: Math.max(0, ...boxes.map((box) => box.y + box.height)),
  };
}

function remarks(table: IndexTable): string[] {
  const notes: string[] = [];
  if (table.link) notes.push(t`through ${table.link}`);
  if (table.only) notes.push(t`only ${table.only}`);
  if (table.order.length > 0) notes.push(t`in order of ${table.order.map(direction).join(", ")}`);
  if (table.limit > 0) notes.push(t`the first ${table.limit}`);
  return notes;
}

const direction = (column: string) =>
  column.startsWith("-") ? t`${column.slice(1)}, last first` : column;
