/** How the map lays a song out: two columns that fit the screen, and a section in a few words. */
import type { Schemas, Section } from "@/api/client";

export type Facts = Schemas["SectionFacts"];
export interface Shown extends Section {
  rows: number[][];
  facts: Facts | undefined;
  twin: string | undefined;
  start: number;
}

const GAP = 5; // pixels between sections
const ROW_GAP = 2;
const LEAST = 28;
const MOST = 72;

/** Sections in their order, in two columns of about equal rows. */
export function columnsOf<T extends { rows: number[][] }>(sections: T[]): T[][] {
  const all = sections.reduce((n, s) => n + s.rows.length, 0);
  let best = 0;
  let nearest = Infinity;
  let left = 0;
  sections.forEach((s, i) => {
    left += s.rows.length;
    const off = Math.abs(left - all / 2);
    if (off < nearest) [nearest, best] = [off, i + 1];
  });
  const columns = [sections.slice(0, best), sections.slice(best)];
  return columns.filter((c) => c.length > 0);
}

/** Height of a bar so that the longer column fits; at least 28 px, so that it can be read. */
export function fittingHeight(columns: { rows: number[][] }[][], room: number): number {
  const fits = columns.map((column) => {
    const rows = column.reduce((n, s) => n + s.rows.length, 0);
    return (room - column.length * (GAP + 2) - rows * ROW_GAP) / Math.max(rows, 1);
  });
  return Math.floor(Math.min(MOST, Math.max(LEAST, Math.min(...fits))));
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
