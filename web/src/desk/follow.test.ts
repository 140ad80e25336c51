import { beforeEach, expect, it } from "vitest";
import { follow } from "./follow";

let told: string[];
let own: HTMLElement;
const send = (kind: string, pointerId = 7) => window.dispatchEvent(Object.assign(new Event(kind), { pointerId }));

beforeEach(() => {
  told = [];
  own = document.createElement("div");
  own.setPointerCapture = (id) => void told.push(`captured ${id}`);
  own.addEventListener("pointerdown", (e) =>
    follow(e as PointerEvent, {
      move: () => told.push("moved"), end: () => told.push("let go"), cancel: () => told.push("cancelled"),
    }),
  );
  own.dispatchEvent(Object.assign(new Event("pointerdown"), { pointerId: 7 }));
});

it("captures the pointer and follows it until it is let go", () => {
  for (const kind of ["pointermove", "pointermove", "pointerup", "pointermove", "pointerup"]) send(kind);
  expect(told).toEqual(["captured 7", "moved", "moved", "let go"]);
});

it("does nothing of a touch that was cancelled", () => {
  for (const kind of ["pointermove", "pointercancel", "pointerup"]) send(kind);
  expect(told).toEqual(["captured 7", "moved", "cancelled"]);
});

it("follows no other finger", () => {
  send("pointermove", 8);
  send("pointerup", 8);
  expect(told).toEqual(["captured 7"]);
});
