import { describe, expect, it } from "vitest";
import { PARTS, SHAPES } from "@/kit";
import { mark, shape } from "./shapes";

describe("heads of the spine", () => {
  it("are there for every part of the kit", () => {
    for (const part of PARTS) expect(SHAPES, part.name).toHaveProperty(part.shape);
  });

  it("tell parts of one limb apart by outline or by letter", () => {
    const looks = PARTS.map((p) => `${shape(p.shape).path}|${shape(p.shape).isHollow}|${shape(p.shape).extra}|${p.letter}`);
    expect(new Set(looks).size).toBe(PARTS.length);
  });

  it("that nobody drew are discs", () => {
    expect(shape("a new thing")).toEqual(shape("disc"));
  });

  it("in a thumbnail still tell crash, ride, open and closed hat, drum, tom and kick apart", () => {
    const kinds = ["burst", "dish", "lens_open", "lens", "disc", "keg", "barrel"].map((s) => mark(s, 10, 10));
    expect(new Set(kinds).size).toBe(kinds.length);
  });

  it("in a thumbnail stand where they are put", () => {
    for (const name of Object.keys(SHAPES)) {
      const [, x, y] = /^M(-?[\d.]+) (-?[\d.]+)/.exec(mark(name, 50, 20))!;
      expect(Math.hypot(Number(x) - 50, Number(y) - 20), name).toBeLessThan(5);
    }
  });
});
