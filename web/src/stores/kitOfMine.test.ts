import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { reactive } from "vue";
import { useKitOfMine, type KitOfMine } from "./kitOfMine";

const song = reactive<{ score: { player: Record<string, string> } | null }>({ score: null });
const schools: string[] = [];
vi.mock("./song", () => ({ useSong: () => song }));
vi.mock("@/score/count", () => ({ countIn: async (school: string) => void schools.push(school) }));
let kept: Partial<KitOfMine>;

beforeEach(() => {
  setActivePinia(createPinia());
  song.score = null;
  schools.length = 0;
  kept = { counting: "syllables", reads: "", note_names: "" } as never;
  vi.stubGlobal("fetch", async (request: Request) => {
    if (request.method === "PUT") kept = (await request.json()) as KitOfMine;
    return Response.json(kept);
  });
});

describe("how somebody counts and reads", () => {
  it("is letters and a staff before anybody said otherwise", () => {
    expect(useKitOfMine().read).toEqual({ counting: "letters", reads: "staff", names: "letters" });
    expect(schools).toEqual(["letters"]);
  });

  it("is the person's where the song says nothing", async () => {
    const own = useKitOfMine();
    await own.find();
    expect(own.read.counting).toBe("syllables");
    expect(own.read.reads).toBe("staff");
    expect(schools).toEqual(["letters", "syllables"]);
  });

  it("is the song's where it says something", async () => {
    const own = useKitOfMine();
    await own.find();
    song.score = { player: { counting: "letters", reads: "limbs", note_names: "solfa" } };
    expect(own.read).toEqual({ counting: "letters", reads: "limbs", names: "solfa" });
  });

  it("is kept with the account", async () => {
    const own = useKitOfMine();
    await own.find();
    await own.keep({ ...own.mine!, counting: "numbers" } as KitOfMine);
    expect((kept as { counting: string }).counting).toBe("numbers");
    expect(own.read.counting).toBe("numbers");
  });
});
