import { createPinia, setActivePinia } from "pinia";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { effectScope, ref, type EffectScope } from "vue";
import { useFinding } from "./finding";
import { useSong } from "./song";

let asked: string[];
let answers: ((value: unknown) => void)[];
let scope: EffectScope;

beforeEach(() => {
  vi.useFakeTimers();
  setActivePinia(createPinia());
  asked = [];
  answers = [];
  scope = effectScope();
  vi.stubGlobal("fetch", (url: string) => {
    asked.push(url);
    return new Promise((resolve) =>
      answers.push((body) => resolve({ ok: true, status: 200, json: async () => body })),
    );
  });
});
afterEach(() => {
  scope.stop();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

const flush = () => vi.advanceTimersByTimeAsync(0);
function shown(version: number): void {
  const song = useSong();
  song.id = 5;
  song.shown = { version, score: { strokes: [] } } as never;
}

it("waits for a song and asks for what stands behind its number", async () => {
  const found = scope.run(() => useFinding<{ version: number }>(() => "grooves"))!;
  await flush();
  expect(asked).toEqual([]);
  shown(1);
  await flush();
  expect(asked).toEqual(["/api/songs/5/grooves"]);
  answers[0]!({ version: 1 });
  await flush();
  expect(found.value.value).toEqual({ version: 1 });
});

it("asks anew after an edit and where another thing is wanted, and keeps showing what it had", async () => {
  const share = ref(0.8);
  shown(1);
  const found = scope.run(() => useFinding<{ version: number }>(() => `grooves?share=${share.value}`))!;
  await flush();
  answers[0]!({ version: 1 });
  await flush();
  shown(2);
  await flush();
  expect(asked).toHaveLength(2);
  expect(found.value.value).toEqual({ version: 1 });
  share.value = 0.5;
  await flush();
  expect(asked[2]).toBe("/api/songs/5/grooves?share=0.5");
});

it("drops an answer that came too late", async () => {
  shown(1);
  const found = scope.run(() => useFinding<{ version: number }>(() => "feel"))!;
  await flush();
  shown(2);
  await flush();
  answers[1]!({ version: 2 });
  await flush();
  answers[0]!({ version: 1 });
  await flush();
  expect(found.value.value).toEqual({ version: 2 });
});

it("says why it has nothing, and takes it back", async () => {
  vi.stubGlobal("fetch", async () => ({ ok: false, status: 400, json: async () => ({ detail: "No bars." }) }));
  shown(1);
  const found = scope.run(() => useFinding<{ version: number }>(() => "feel"))!;
  await flush();
  expect(found.complaint.value).toBe("No bars.");
  vi.stubGlobal("fetch", async () => ({ ok: true, status: 200, json: async () => ({ version: 2 }) }));
  shown(2);
  await flush();
  expect(found.complaint.value).toBe("");
});
