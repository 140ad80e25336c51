import { describe, expect, it } from "vitest";
import { Clock, clockText, meterOf, placeText, placeValue } from "./time";

const straight = new Clock({ meters: ["4/4", "4/4"], pulse: [1, 1.5, 2, 2.5, 3, 3.5, 4, 4.5, 5], swing: ["none", 0.5] });

describe("places", () => {
  it("reads and writes fractions in their shortest form", () => {
    expect(placeValue("7/4")).toBe(1.75);
    expect(placeValue("3")).toBe(3);
    expect(placeText(6, 4)).toBe("3/2");
    expect(placeText(8, 4)).toBe("2");
    expect(placeText(0, 4)).toBe("0");
  });
  it("counts compound meters in dotted beats", () => {
    expect(meterOf("12/8").beats).toBe(4);
    expect(meterOf("7/8").beats).toBe(7);
    expect(meterOf("4/4").beats).toBe(4);
  });
});

describe("the clock", () => {
  it("knows where bars begin and which one sounds", () => {
    expect(straight.barStart(1)).toBe(1);
    expect(straight.barEnd(2)).toBe(5);
    expect(straight.barAt(0.5)).toBe(0);
    expect(straight.barAt(1)).toBe(1);
    expect(straight.barAt(2.99)).toBe(1);
    expect(straight.barAt(3)).toBe(2);
    expect(straight.barAt(99)).toBe(2);
    expect(straight.within(2, 4)).toBe(0.5);
  });
  it("plays swung 16ths late and leaves straight ones", () => {
    const swung = new Clock({ meters: ["4/4"], pulse: [0, 1, 2, 3, 4], swing: ["sixteenth", 0.6] });
    expect(swung.played({ bar: 1, place: "1/4" })).toBeCloseTo(0.3);
    expect(swung.played({ bar: 1, place: "1/2" })).toBeCloseTo(0.5);
    expect(swung.played({ bar: 1, place: "7/4" })).toBeCloseTo(1.8);
    expect(straight.played({ bar: 2, place: "1/4" })).toBeCloseTo(3.125);
  });
  it("swings 8ths and leaves triplets alone", () => {
    const swung = new Clock({ meters: ["4/4"], pulse: [0, 1, 2, 3, 4], swing: ["eighth", 0.66] });
    expect(swung.played({ bar: 1, place: "1/2" })).toBeCloseTo(0.66);
    expect(swung.played({ bar: 1, place: "1/3" })).toBeCloseTo(1 / 3);
  });
});

it("tells minutes and seconds", () => {
  expect(clockText(0)).toBe("0:00");
  expect(clockText(125.9)).toBe("2:05");
});
