import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { nextTick, reactive } from "vue";
import { useOutline } from "./outline";

const desk = reactive<{ shown: { take: number } | null }>({ shown: null });
vi.mock("./song", () => ({ useSong: () => desk }));
let waiting: Map<string, (answer: Response) => void>;
const bytes = (...peaks: number[]) => new Response(new Uint8Array(peaks));

beforeEach(() => {
  setActivePinia(createPinia());
  desk.shown = null;
  waiting = new Map();
  vi.stubGlobal("fetch", (url: string) => new Promise((answer) => waiting.set(url, answer)));
});
async function answer(take: number, what: Response): Promise<void> {
  waiting.get(`/api/takes/${take}/outline`)!(what);
  await vi.waitFor(() => nextTick());
  await new Promise((done) => setTimeout(done));
}

describe("the outline of the open take", () => {
  it("is fetched with the take", async () => {
    const own = useOutline();
    desk.shown = { take: 4 };
    await nextTick();
    expect(own.peaks).toBeNull();
    await answer(4, bytes(0, 128, 255));
    expect([...own.peaks!]).toEqual([0, 128, 255]);
  });

  it("of a take that was left meanwhile is not shown for the next", async () => {
    const own = useOutline();
    desk.shown = { take: 4 };
    await nextTick();
    desk.shown = { take: 5 };
    await nextTick();
    await answer(4, bytes(9));
    expect(own.peaks).toBeNull();
    await answer(5, bytes(7));
    expect([...own.peaks!]).toEqual([7]);
  });

  it("that can't be had is empty, not awaited for ever", async () => {
    const own = useOutline();
    desk.shown = { take: 4 };
    await nextTick();
    await answer(4, new Response("{}", { status: 404 }));
    expect(own.peaks).toHaveLength(0);
  });
});
