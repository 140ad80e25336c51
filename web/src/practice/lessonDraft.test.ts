import { nextTick } from "vue";
import { beforeEach, describe, expect, it } from "vitest";
import { MOST_BARS, useLessonDraft } from "./lessonDraft";

const link = {
  id: 7, title: "Turn", words: "Slowly.", address: "/p/x", whole: false, with_recording: true, is_old: false, changes: [], progress: [],
  passages: [{ first: 2, last: 3, order: "limbs" as const, words: "Mind the kick." }],
};
beforeEach(() => localStorage.clear());

describe("a lesson's draft", () => {
  it("holds passages in the order that they are put in, each with method and words", () => {
    const own = useLessonDraft(1);
    own.add(5, 8);
    own.add(1, 2, "fill");
    own.add(9, 99);
    own.move(2, -1);
    own.move(0, -1); // it is the first already
    own.change(0, { words: "Quietly." });
    expect(own.draft.value.passages.map((p) => [p.first, p.last, p.order, p.words])).toEqual([
      [5, 8, "computed", "Quietly."], [9, 9 + MOST_BARS - 1, "computed", ""], [1, 2, "fill", ""],
    ]);
    own.remove(1);
    expect(own.body("Song").passages!.map((p) => p.first)).toEqual([5, 1]);
    expect(own.body("Song").title).toBe("Song");
  });

  it("survives a reload, one for each song", async () => {
    const own = useLessonDraft(1);
    own.add(3, 4);
    own.set({ words: "Count aloud." });
    await nextTick();
    expect(useLessonDraft(1).draft.value).toMatchObject({ words: "Count aloud.", passages: [{ first: 3 }] });
    expect(useLessonDraft(2).isEmpty.value).toBe(true);
  });

  it("is opened from a lesson that was given, or copied from it", () => {
    const own = useLessonDraft(3);
    own.open(link);
    expect(own.draft.value).toMatchObject({ id: 7, title: "Turn", withRecording: true });
    own.change(0, { words: "Other." });
    expect(link.passages[0]!.words).toBe("Mind the kick.");
    own.duplicate(link);
    expect(own.draft.value).toMatchObject({ id: 0, title: "Turn (copy)", passages: link.passages });
    own.clear();
    expect(own.isEmpty.value).toBe(true);
  });
});
