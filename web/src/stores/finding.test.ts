import { createPinia, setActivePinia } from "pinia";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { effectScope, ref, type EffectScope } from "vue";
import { of, server } from "@/api/client";
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
  vi.stubGlobal("fetch", (request: Request) => {
    asked.push(request.url.replace(location.origin, ""));
    return new Promise((resolve) => answers.push((body) => resolve(Response.json(body))));
  });
});
afterEach(() => {
  scope.stop();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

const grooves = (id: number) => server.GET("/api/songs/{id}/grooves", { params: of(id) });
const feel = (id: number) => server.GET("/api/songs/{id}/feel", { params: of(id) });
const flush = () => vi.advanceTimersByTimeAsync(0);
function shown(version: number): void {
  const song = useSong();
  song.id = 5;
  song.shown = { version, score: { strokes: [] } } as never;
}

it("waits for a song and asks for what stands behind its number", async () => {
  const found = scope.run(() => useFinding(grooves))!;
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
  const found = scope.run(() => useFinding(
    (id) => server.GET("/api/songs/{id}/grooves", { params: { ...of(id), query: { threshold: share.value } } }),
    () => share.value,
  ))!;
  await flush();
  answers[0]!({ version: 1 });
  await flush();
  shown(2);
  await flush();
  expect(asked).toHaveLength(2);
  expect(found.value.value).toEqual({ version: 1 });
  share.value = 0.5;
  await flush();
  expect(asked[2]).toBe("/api/songs/5/grooves?threshold=0.5");
});

it("drops an answer that came too late", async () => {
  shown(1);
  const found = scope.run(() => useFinding(feel))!;
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
  vi.stubGlobal("fetch", async () => Response.json({ detail: "No bars." }, { status: 400 }));
  shown(1);
  const found = scope.run(() => useFinding(feel))!;
  await flush();
  expect(found.complaint.value).toBe("No bars.");
  vi.stubGlobal("fetch", async () => Response.json({ version: 2 }));
  shown(2);
  await flush();
  expect(found.complaint.value).toBe("");
});
