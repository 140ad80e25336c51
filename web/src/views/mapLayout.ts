/** How the map lays a song out: two columns that fit the screen, and a section in a few words. */
import type { Schemas, Section } from "@/api/client";

export type Facts = Schemas["SectionFacts"];
export interface Shown extends Section {
  rows: number[][];
  facts: Facts | undefined;
  twin: string | undefined;
  start: number;
}

/** Pixels between sections (with their edges) and between rows: usual, and where it is tight. */
const GAPS = { usual: { section: 7, row: 2 }, dense: { section: 2, row: 1 } };
const LEAST = 28;
const MOST = 72;

export interface Layout<T> {
  columns: T[][];
  height: number;
  isDense: boolean;
}

/** Sections in two columns and the height of a bar so that both fit into the room (pixels). */
export function layoutOf<T extends { rows: number[][] }>(sections: T[], room: number): Layout<T> {
  const whole = columnsOf(sections);
  const usual = fittingHeight(whole, room, GAPS.usual);
  if (usual >= LEAST) return { columns: whole, height: usual, isDense: usual < 40 };
  // A long song: a section may go on in the second column, so that both are equally long.
  const even = columnsOf(sections, true);
  return { columns: even, height: Math.max(LEAST, fittingHeight(even, room, GAPS.dense)), isDense: true };
}

/** Sections in their order, in two columns of about equal rows. even: a section may be parted. */
export function columnsOf<T extends { rows: number[][] }>(sections: T[], even = false): T[][] {
  const all = sections.reduce((n, s) => n + s.rows.length, 0);
  let best = 0;
  let nearest = Infinity;
  let left = 0;
  sections.forEach((s, i) => {
    left += s.rows.length;
    const off = Math.abs(left - all / 2);
    if (off < nearest) [nearest, best] = [off, i + 1];
  });
  let columns = [sections.slice(0, best), sections.slice(best)];
  if (even && nearest >= 1) columns = parted(sections, Math.ceil(all / 2));
  return columns.filter((c) => c.length > 0);
}

/** The first so many rows, and the rest. */
function parted<T extends { rows: number[][] }>(sections: T[], rows: number): T[][] {
  const columns: T[][] = [[], []];
  let left = rows;
  for (const s of sections) {
    const here = Math.max(0, Math.min(left, s.rows.length));
    left -= s.rows.length;
    if (here > 0) columns[0]!.push({ ...s, rows: s.rows.slice(0, here) });
    if (here < s.rows.length) columns[1]!.push({ ...s, rows: s.rows.slice(here) });
  }
  return columns;
}

function fittingHeight(columns: { rows: number[][] }[][], room: number, gaps: { section: number; row: number }): number {
  const fits = columns.map((column) => {
    const rows = column.reduce((n, s) => n + s.rows.length, 0);
    return (room - column.length * gaps.section - rows * gaps.row) / Math.max(rows, 1);
  });
  return Math.floor(Math.min(MOST, ...fits));
}

/** What a drummer would say of a section, the most telling first. */
export function factsText(s: Shown): string[] {
  const f = s.facts;
  const says = [`${s.bars} bars${f?.surface ? `, ${f.surface}` : ""}`];
  if (s.twin && f) says.push(f.unlike.length ? `as ${s.twin} but bar${f.unlike.length > 1 ? "s" : ""} ${listed(f.unlike)}` : `as ${s.twin}`);
  if (f && f.rests.length === s.bars) says.push("drums rest");
  else if (f?.rests.length) says.push(`rest in bar ${listed(f.rests)}`);
  if (f?.never.length) says.push(f.never.join(", "));
  if (f && f.level !== null) says.push(`${f.level.toFixed(0).replace("-", "−")} dB`);
  return says;
}

export function listed(numbers: number[]): string {
  return numbers.length > 5 ? `${numbers.slice(0, 4).join(", ")} …` : numbers.join(", ");
}
