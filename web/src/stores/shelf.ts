/** Songs on the shelf, a page at a time, and what is being heard. */
import { defineStore } from "pinia";
import { ref } from "vue";
import { brought, of, server, upload, type Job, type Schemas, type Song } from "@/api/client";
import type { paths } from "@/api/schema";

export type NewSong = Pick<Song, "title"> &
  Partial<Pick<Song, "artist" | "asked_by" | "due" | "depth" | "tags" | "groups">>;
/** What of the shelf is wanted: words, group, order and page. */
export type Wanted = NonNullable<paths["/api/songs"]["get"]["parameters"]["query"]>;

/** Whether it is known what is played in a song: it was heard, or came as a score. */
export const hasPart = (song: Song): boolean => ["heard", "corrected", "confirmed"].includes(song.stage);

export const useShelf = defineStore("shelf", () => {
  /** Every song that was fetched so far. */
  const songs = ref<Song[]>([]);
  /** The songs of the page that was asked for, in its order, out of how many; null before. */
  const page = ref<{ ids: number[]; count: number } | null>(null);
  let newest = 0;

  function put(...found: Song[]): void {
    const fresh = new Map(found.map((s) => [s.id, s]));
    const known = songs.value.map((s) => fresh.get(s.id) ?? s);
    const ids = new Set(known.map((s) => s.id));
    songs.value = [...known, ...found.filter((s) => !ids.has(s.id))];
  }
  const get = (id: number): Song | undefined => songs.value.find((s) => s.id === id);

  async function load(wanted: Wanted = {}): Promise<void> {
    const turn = ++newest;
    const found = await brought(server.GET("/api/songs", { params: { query: wanted } }));
    if (turn !== newest) return;
    put(...found.results);
    page.value = { ids: found.results.map((s) => s.id), count: found.count };
  }

  /** Answers under way: who asks for the same song meanwhile gets the same one. */
  const asked = new Map<number, Promise<Song>>();
  function refresh(id: number): Promise<Song> {
    const known = asked.get(id);
    if (known) return known;
    const answer = brought(server.GET("/api/songs/{id}", { params: of(id) }))
      .then((song) => (put(song), song))
      .finally(() => asked.delete(id));
    asked.set(id, answer);
    return answer;
  }

  async function add(song: NewSong): Promise<Song> {
    const made = await brought(server.POST("/api/songs", { body: song as Song }));
    put(made);
    return made;
  }

  async function change(id: number, fields: Partial<NewSong>): Promise<void> {
    put(await brought(server.PATCH("/api/songs/{id}", { params: of(id), body: fields })));
  }

  async function remove(id: number): Promise<void> {
    await server.DELETE("/api/songs/{id}", { params: of(id) });
    songs.value = songs.value.filter((s) => s.id !== id);
    if (page.value) page.value = { ids: page.value.ids.filter((k) => k !== id), count: page.value.count - 1 };
  }

  async function restore(id: number): Promise<void> {
    put(await brought(server.POST("/api/songs/{id}/restore", { params: of(id) })));
  }

  /** Undo the newest change of a song that can't be opened any more. */
  async function takeBack(id: number): Promise<void> {
    await server.POST("/api/songs/{id}/transcription/undo", { params: of(id), body: { base: 0 } });
    await refresh(id);
  }

  async function takeIn(id: number, file: File, told: (share: number) => void): Promise<void> {
    await upload(id, file, told);
    await refresh(id);
  }

  /** A song that comes as a file: a package, or a score in any format that is read. */
  async function bringIn(file: File): Promise<Schemas["BroughtIn"]> {
    const form = new FormData();
    form.append("file", file);
    return brought(server.POST("/api/packages", { body: form as never, bodySerializer: (b) => b as never }));
  }

  /** A song of the bin is gone for good. */
  async function erase(id: number): Promise<void> {
    await server.POST("/api/songs/{id}/erase", { params: of(id) });
    songs.value = songs.value.filter((s) => s.id !== id);
    if (page.value) page.value = { ids: page.value.ids.filter((k) => k !== id), count: page.value.count - 1 };
  }

  async function act(job: Job, what: "cancel" | "retry"): Promise<void> {
    await server.POST(`/api/jobs/{id}/${what}`, { params: of(job.id) });
  }

  return { songs, page, get, load, refresh, add, change, remove, restore, takeBack, takeIn, bringIn, erase, act };
});
