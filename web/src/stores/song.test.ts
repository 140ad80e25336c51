import { createPinia, setActivePinia } from "pinia";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { useSong } from "./song";

const stroke = {
  id: "a", bar: 1, place: "0", part: "kick", limb: "RF", dynamic: "normal", loudness: 0.7,
  ornament: null, measured: { time: 0.5, level: null, openness: null }, confidence: 0.9, placed_by: "heard", limb_by: "program",
};
const heard = {
  version: 0, take: 1, duration: 10,
  score: {
    title: "T", artist: "", meters: ["4/4", "4/4"], pulse: [0, 1, 2, 3, 4, 5, 6, 7, 8],
    swing: ["none", 0.5], sections: [{ id: "s", name: "A", label: "A", first_bar: 1, bars: 2 }],
    strokes: [stroke],
  },
  tempo: { bpm: 60, low: 60, high: 60, steady: true, confidence: 1, alternatives: [] },
  fills: [], undoes: "", redoes: "",
};
type Answer = { status: number; body: unknown } | "down";
let answers: Answer[];
let asked: { url: string; body: Record<string, unknown> }[];

function result(version: number, patches: unknown[]) {
  const { tempo, fills } = heard;
  return { status: 200, body: { version, patches, tempo, fills, undoes: "stroke removed", redoes: "" } };
}

beforeEach(() => {
  vi.useFakeTimers();
  localStorage.clear();
  setActivePinia(createPinia());
  answers = [];
  asked = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    if (request.method === "GET") return Response.json(heard);
    asked.push({ url: new URL(request.url).pathname, body: (await request.json()) as Record<string, unknown> });
    const answer = answers.shift() ?? "down";
    if (answer === "down") throw new TypeError("network");
    return Response.json(answer.body, { status: answer.status });
  });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

const flush = () => vi.advanceTimersByTimeAsync(0);

describe("a song on the desk", () => {
  it("shows an edit at once and settles with the server's patch", async () => {
    const song = useSong();
    await song.open(3);
    const patched = { ...stroke, dynamic: "ghost", loudness: 0.31, placed_by: "person" };
    answers.push(result(1, [{ strokes: { a: patched } }]));
    song.edit({ operation: "set_dynamic", id: "a", dynamic: "ghost" });
    expect(song.score!.strokes[0]).toMatchObject({ dynamic: "ghost", loudness: 0.3 });
    expect(song.isSaved).toBe(false);
    await flush();
    expect(song.isSaved).toBe(true);
    expect(song.score!.strokes[0]!.loudness).toBe(0.31);
    expect(song.shown).toMatchObject({ version: 1, undoes: "stroke removed" });
    expect(asked[0]).toMatchObject({ url: "/api/songs/3/transcription/edits", body: { base: 0, edit: { operation: "set_dynamic" } } });
  });

  it("keeps edits in their order while the server is away, and sends them later", async () => {
    const song = useSong();
    await song.open(3);
    answers.push("down");
    song.edit({ operation: "remove_stroke", id: "a" });
    song.edit({ operation: "rename_section", id: "s", name: "Verse" });
    await flush();
    expect(song.isAway).toBe(true);
    expect(song.pending).toBe(2);
    expect(song.score!.strokes).toHaveLength(0);
    answers.push(result(1, [{ strokes: { a: null } }]));
    answers.push(result(2, [{ sections: [{ ...heard.score.sections[0], name: "Verse" }] }]));
    await vi.advanceTimersByTimeAsync(2000);
    expect(song.isAway).toBe(false);
    expect(song.isSaved).toBe(true);
    expect(asked.map((a) => (a.body.edit as { operation: string }).operation)).toEqual(["remove_stroke", "remove_stroke", "rename_section"]);
    expect(asked.at(-1)!.body.base).toBe(1);
  });

  it("takes back what the server refuses, and says why", async () => {
    const song = useSong();
    await song.open(3);
    answers.push({ status: 422, body: { detail: "That stroke is no longer there." } });
    song.edit({ operation: "remove_stroke", id: "a" });
    expect(song.score!.strokes).toHaveLength(0);
    await flush();
    expect(song.complaint).toBe("That stroke is no longer there.");
    expect(song.score!.strokes).toHaveLength(1);
    expect(song.isSaved).toBe(true);
  });

  it("asks for undo only where there is something to undo", async () => {
    const song = useSong();
    await song.open(3);
    song.undo();
    song.redo();
    await flush();
    expect(asked).toHaveLength(0);
  });

  it("hears of the edits of another page", async () => {
    const song = useSong();
    await song.open(3);
    answers.push(result(2, [{ strokes: { other: { ...stroke, id: "other", place: "1" } } }, { strokes: { a: null } }]));
    song.edit({ operation: "remove_stroke", id: "a" });
    await flush();
    expect(song.score!.strokes.map((s) => s.id)).toEqual(["other"]);
    expect(song.byBar.get(1)).toHaveLength(1);
  });

  it("lets what is typed while the server is away wait with the rest", async () => {
    const song = useSong();
    await song.open(3);
    answers.push("down");
    expect(await song.tryEdit({ operation: "write_bars", bar: 1, text: "kick: 1", new: "n" })).toBe("");
    expect([song.pending, song.isKept]).toEqual([1, true]);
    await flush();
    expect(song.isAway).toBe(true);
    expect(await song.tryEdit({ operation: "note_bar", bar: 1, note: "soft" })).toBe("");
    expect(song.pending).toBe(2);
    answers.push(result(1, []), result(2, []));
    await vi.advanceTimersByTimeAsync(2000);
    expect(song.isSaved).toBe(true);
    const keys = asked.map((a) => a.body.key);
    expect(keys[0]).toBe(keys.at(-2)); // the server knows that it is the same edit
    expect(new Set(keys).size).toBe(2);
  });

  it("keeps each unsent edit in storage until the server has confirmed it", async () => {
    const song = useSong();
    await song.open(3);
    song.edit({ operation: "remove_stroke", id: "a" });
    await flush();
    song.close();
    setActivePinia(createPinia());
    const again = useSong();
    await again.open(3);
    expect(again.pending).toBe(1);
    expect(JSON.stringify(localStorage)).toContain("remove_stroke");
    answers.push(result(1, [{ strokes: { a: null } }]));
    await vi.advanceTimersByTimeAsync(2000);
    expect(again.isSaved).toBe(true);
    expect(JSON.stringify(localStorage)).not.toContain("remove_stroke");
  });

  it("does not say kept of what the browser can't keep", async () => {
    const song = useSong();
    await song.open(3);
    const full = vi.spyOn(Storage.prototype, "setItem").mockImplementation(() => {
      throw new DOMException("full", "QuotaExceededError");
    });
    song.edit({ operation: "remove_stroke", id: "a" });
    await flush();
    expect([song.isAway, song.isKept]).toEqual([true, false]);
    full.mockRestore();
  });

  it("shows both readings of words that another window wrote", async () => {
    const song = useSong();
    await song.open(3);
    answers.push({ status: 409, body: { detail: "“A” changed in another window", clash: true, bars: [], sections: ["s"] } });
    song.edit({ operation: "rename_section", id: "s", name: "Verse" });
    await flush();
    expect(song.clash).toMatchObject({ says: "“A” changed in another window", sections: ["s"], bars: [] });
    expect([song.clash!.mine.sections[0]!.name, song.clash!.theirs.sections[0]!.name]).toEqual(["Verse", "A"]);
    answers.push(result(2, []));
    song.decide(true);
    await flush();
    expect(asked.at(-1)!.body).toMatchObject({ over: true, edit: { operation: "rename_section" } });
  });

  it("forgets all of it when another song is opened", async () => {
    const song = useSong();
    await song.open(3);
    song.close();
    expect(song.shown).toBeNull();
    expect(song.clock).toBeNull();
  });
});
