import { describe, expect, it } from "vitest";
import { climbed, type Rung } from "./ladder";

const RUNGS = [60, 66, 72, 78];
const at = (tempo: number, clean = 0, is_learned = false): Rung => ({ tempo, clean, is_learned });
const go = (rung: Rung, ...judged: string[]) => judged.reduce((r, j) => climbed(r, RUNGS, 3, j), rung);

describe("the tempo ladder without a house", () => {
  it("is climbed a rung by three relaxed loops in a row", () => {
    expect(go(at(60), "relaxed", "relaxed")).toEqual(at(60, 2));
    expect(go(at(60), "relaxed", "relaxed", "relaxed")).toEqual(at(66, 0));
  });

  it("counts anew after a loop that was not clean", () => {
    expect(go(at(66), "relaxed", "relaxed", "tense")).toEqual(at(66, 0));
    expect(go(at(66), "relaxed", "relaxed", "tense", "relaxed")).toEqual(at(66, 1));
  });

  it("is gone down where it failed, and never below its foot", () => {
    expect(go(at(72, 2), "not yet")).toEqual(at(66, 0));
    expect(go(at(60), "not yet", "not yet", "not yet")).toEqual(at(60, 0));
  });

  it("is learned at its top, and stays learned", () => {
    const top = go(at(78), "relaxed", "relaxed", "relaxed");
    expect(top).toEqual(at(78, 0, true));
    expect(go(top, "not yet").is_learned).toBe(true);
  });

  it("is not learned by reaching the top", () => {
    expect(go(at(72), "relaxed", "relaxed", "relaxed")).toEqual(at(78, 0, false));
  });

  it("of another length is stood on at the nearest rung", () => {
    expect(go(at(70), "tense")).toEqual(at(72, 0));
    expect(go(at(200), "relaxed")).toEqual(at(78, 1));
  });
});
