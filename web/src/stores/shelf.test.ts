import { createPinia, setActivePinia } from "pinia";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { useShelf } from "./shelf";

interface Asked {
  method: string;
  path: string;
  body: unknown;
}
let asked: Asked[];
let answers: ((request: Asked) => Response | Promise<Response>)[];
const song = (id: number, more: object = {}) => ({ id, title: `Song ${id}`, takes: [], stage: "asked", ...more });
const pageOf = (...ids: number[]) => () => Response.json({ count: 70, next: null, previous: null, results: ids.map((id) => song(id)) });

beforeEach(() => {
  setActivePinia(createPinia());
  [asked, answers] = [[], []];
  document.cookie = "csrftoken=abc";
  vi.stubGlobal("fetch", async (request: Request) => {
    const told = {
      method: request.method,
      path: request.url.replace(location.origin, ""),
      body: request.method === "GET" || request.method === "DELETE" ? null : await request.json().catch(() => null),
    };
    expect(request.headers.get("X-CSRFToken")).toBe("abc");
    asked.push(told);
    return answers.shift()!(told);
  });
});
afterEach(() => void vi.unstubAllGlobals());

it("shows a page in the server's order and knows every song that it has seen", async () => {
  const shelf = useShelf();
  answers.push(pageOf(3, 1), pageOf(2));
  await shelf.load({ search: "tin", group: "desk", order: ["-title"], page: 1 });
  expect(asked[0]!.path).toBe("/api/songs?search=tin&group=desk&order=-title&page=1");
  expect(shelf.page).toEqual({ ids: [3, 1], count: 70 });
  await shelf.load({ page: 2 });
  expect(shelf.page!.ids).toEqual([2]);
  expect([1, 2, 3, 4].map((id) => shelf.get(id)?.title)).toEqual(["Song 1", "Song 2", "Song 3", undefined]);
});

it("drops a page that came after a newer one was asked for", async () => {
  const shelf = useShelf();
  let late: (r: Response) => void = () => {};
  answers.push(() => new Promise((done) => (late = done)), pageOf(2));
  const first = shelf.load({ search: "t" });
  await shelf.load({ search: "ti" });
  late(pageOf(9)());
  await first;
  expect(shelf.page!.ids).toEqual([2]);
});

it("puts a changed song in the place of the one it knows", async () => {
  const shelf = useShelf();
  answers.push(pageOf(1, 2), () => Response.json(song(2, { title: "Salt Road" })));
  await shelf.load();
  await shelf.change(2, { title: "Salt Road" });
  expect(asked[1]).toEqual({ method: "PATCH", path: "/api/songs/2", body: { title: "Salt Road" } });
  expect(shelf.songs.map((s) => s.title)).toEqual(["Song 1", "Salt Road"]);
});

it("takes a song off the page, and brings it back to what it knows", async () => {
  const shelf = useShelf();
  answers.push(pageOf(1, 2), () => new Response(null, { status: 204 }), () => Response.json(song(2)));
  await shelf.load();
  await shelf.remove(2);
  expect([shelf.page, shelf.get(2)]).toEqual([{ ids: [1], count: 69 }, undefined]);
  await shelf.restore(2);
  expect(asked[2]!.path).toBe("/api/songs/2/restore");
  expect(shelf.get(2)?.title).toBe("Song 2");
});

it("undoes the newest change of a song that can't be opened, and looks again", async () => {
  const shelf = useShelf();
  answers.push(() => Response.json({}), () => Response.json(song(4)));
  await shelf.takeBack(4);
  expect(asked.map((a) => a.path)).toEqual(["/api/songs/4/transcription/undo", "/api/songs/4"]);
});

it("throws what the server refuses as one sentence", async () => {
  answers.push(() => Response.json({ detail: "Give the song a title." }, { status: 400 }));
  await expect(useShelf().add({ title: "" })).rejects.toThrow("Give the song a title.");
});
