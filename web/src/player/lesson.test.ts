import { beforeEach, describe, expect, it, vi } from "vitest";
import { nextTick } from "vue";
import { useLesson, type Lesson } from "./lesson";

const stage = {
  title: "All of it", words: "", clips: [], rungs: [60, 70, 80], run: 2, rung: { tempo: 60, clean: 0, is_learned: false },
} as unknown as Lesson["passages"][number]["stages"][number];
const passage = { first: 5, last: 6, order: "computed", title: "Verse, bars 5–6", words: "", stages: [stage], hardest: [5, 1] } as unknown as Lesson["passages"][number];
const LESSON = { title: "The verse", passages: [passage], pages: 1, meters: ["4/4"], pulse: [0, 0.5, 1, 1.5, 2], swing: ["none", 0.5] } as unknown as Lesson;

let sent: { url: string; method: string; body: Record<string, unknown> }[];
let answer: () => Promise<unknown>;
const ok = (body: unknown) => Promise.resolve({ ok: true, json: async () => body });

beforeEach(() => {
  localStorage.clear();
  sent = [];
  answer = () => ok(LESSON);
  vi.stubGlobal("fetch", (url: string, more: { method?: string; body?: string } = {}) => {
    sent.push({ url, method: more.method ?? "GET", body: JSON.parse(more.body ?? "{}") as Record<string, unknown> });
    return more.method ? Promise.resolve({ ok: true }) : answer();
  });
});

async function opened(token = "abc") {
  const own = useLesson(token);
  await own.open();
  return own;
}

describe("a lesson behind a link", () => {
  it("is opened by its address and names the page", async () => {
    const own = await opened();
    expect(own.lesson.value!.title).toBe("The verse");
    expect(document.title).toBe("The verse");
    expect(own.clock.value!.barEnd(1)).toBeCloseTo(2);
  });

  it("is gone from the device once it is no longer shared, also where there is no network", async () => {
    const own = await opened();
    own.judged(passage, stage, "relaxed", 30);
    own.told.value = { agrees: true, name: "Ilse" };
    answer = () => Promise.resolve({ ok: false, status: 404, json: async () => ({ detail: "nothing" }) });
    const ended = await opened();
    expect(ended.lesson.value).toBeNull();
    expect(ended.complaint.value).toContain("no longer shared");
    await nextTick();
    answer = () => Promise.reject(new TypeError("Failed to fetch"));
    const offline = await opened();
    expect(offline.complaint.value).toContain("no longer shared");
    expect(offline.minutes.value).toBe(0);
    expect(offline.told.value.name).toBe("");
  });

  it("says that there is no network, not what the browser calls it", async () => {
    answer = () => Promise.reject(new TypeError("Failed to fetch"));
    const own = await opened();
    expect(own.complaint.value).toContain("no network");
  });

  it("climbs its ladder here, and stands there when it is opened again", async () => {
    const own = await opened();
    own.judged(passage, stage, "relaxed", 30);
    own.judged(passage, stage, "relaxed", 30);
    expect(own.rungOf(passage, stage)).toMatchObject({ tempo: 70, clean: 0 });
    expect(own.minutes.value).toBeCloseTo(1);
    await nextTick();
    const again = await opened();
    expect(again.rungOf(passage, stage).tempo).toBe(70);
    expect((await opened("other")).rungOf(passage, stage).tempo).toBe(60);
  });

  it("tells the teacher nothing before the player agrees and says who it is", async () => {
    const own = await opened();
    own.judged(passage, stage, "relaxed", 30);
    own.told.value.agrees = true;
    await own.tell();
    expect(sent.filter((s) => s.method === "POST")).toEqual([]);
    own.told.value.name = "  Maarten ";
    await own.tell();
    const [told] = sent.filter((s) => s.method === "POST");
    expect(told).toMatchObject({
      url: "/api/player/abc/progress",
      body: { name: "Maarten", minutes: 0.5, stages: [{ title: "Verse, bars 5–6: All of it", tempo: 60, goal: 80, is_learned: false }] },
    });
  });

  it("is deleted with the teacher where the player no longer agrees", async () => {
    const own = await opened();
    own.forget();
    expect(sent.at(-1)).toMatchObject({ method: "DELETE" });
    expect(sent.at(-1)!.url).toContain("/api/player/abc/progress?device=");
  });
});
