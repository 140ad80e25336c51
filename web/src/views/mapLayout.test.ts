import { describe, expect, it } from "vitest";
import { phraseRows } from "@/spine/layout";
import { columnsOf, factsText, layoutOf, type Shown } from "./mapLayout";

function song(...bars: number[]) {
  let first = 1;
  return bars.map((n) => {
    const rows = phraseRows(first, n);
    first += n;
    return { rows };
  });
}
const facts = (more: object): Shown =>
  ({
    id: "s", name: "Verse 2", label: "A", first_bar: 1, bars: 8, note: "", sound: {}, rows: [], start: 0, twin: "Verse 1",
    facts: { id: "s", surface: "ride", level: -3.2, fills: [], crashes: [], rests: [], twin: "a", unlike: [4, 8], never: ["no fill"], odd: false, proposed: "Verse 2", ...more },
  }) as unknown as Shown;

describe("the map's layout", () => {
  it("keeps the order and halves the rows", () => {
    const columns = columnsOf(song(8, 8, 8, 8, 8, 8));
    expect(columns.map((c) => c.length)).toEqual([3, 3]);
    expect(columnsOf(song(4))).toHaveLength(1);
    expect(columnsOf([])).toEqual([]);
  });

  it("fits 160 bars on a screen of 1280 by 800 with bars of at least 28 pixels", () => {
    for (const bars of [Array<number>(20).fill(8), [16, 24, 16, 24, 7, 16, 24, 16, 17]]) {
      const { columns, height, isDense } = layoutOf(song(...bars), 622);
      expect(height).toBeGreaterThanOrEqual(28);
      expect(isDense).toBe(true);
      for (const column of columns) {
        const rows = column.reduce((n, s) => n + s.rows.length, 0);
        expect(rows * (height + 1) + column.length * 2).toBeLessThanOrEqual(622);
      }
    }
  });

  it("lets a section of a long song go on in the second column, no bar lost", () => {
    const { columns } = layoutOf(song(40, 80, 40), 600);
    expect(columns.map((c) => c.length)).toEqual([2, 2]);
    expect(columns.flat().flatMap((s) => s.rows.flat())).toEqual(Array.from({ length: 160 }, (_, i) => i + 1));
  });

  it("never makes a bar of a short song grow without bound", () => {
    expect(layoutOf(song(8), 640)).toMatchObject({ height: 72, isDense: false });
  });
});

describe("a section in words", () => {
  it("tells how it differs from its twin and what never happens", () => {
    expect(factsText(facts({}))).toEqual(["8 bars, ride", "as Verse 1 but bars 4, 8", "no fill", "−3 dB"]);
  });
  it("tells rests, and is silent about what is not known", () => {
    expect(factsText(facts({ rests: [1, 2, 3, 4, 5, 6, 7, 8], unlike: [], never: [], level: null, surface: "" }))).toEqual([
      "8 bars", "as Verse 1", "drums rest",
    ]);
    expect(factsText(facts({ unlike: [1, 2, 3, 4, 5, 6], never: [], level: null }))[1]).toBe("as Verse 1 but bars 1, 2, 3, 4 …");
  });
});
