/** Songs on the shelf, and what is being heard. */
import { defineStore } from "pinia";
import { ref } from "vue";
import { ask, upload, type Job, type Song } from "@/api/client";

export type NewSong = Pick<Song, "title"> &
  Partial<Pick<Song, "artist" | "asked_by" | "due" | "depth">>;

export const useShelf = defineStore("shelf", () => {
  const songs = ref<Song[] | null>(null);

  function put(song: Song): void {
    const known = songs.value ?? [];
    const at = known.findIndex((s) => s.id === song.id);
    songs.value = at < 0 ? [...known, song] : known.with(at, song);
  }

  async function load(): Promise<void> {
    songs.value = await ask<Song[]>("GET", "songs");
  }

  async function refresh(id: number): Promise<Song> {
    const song = await ask<Song>("GET", `songs/${id}`);
    put(song);
    return song;
  }

  async function add(song: NewSong): Promise<Song> {
    const made = await ask<Song>("POST", "songs", song);
    put(made);
    return made;
  }

  async function change(id: number, fields: Partial<NewSong>): Promise<void> {
    put(await ask<Song>("PATCH", `songs/${id}`, fields));
  }

  async function remove(id: number): Promise<void> {
    await ask("DELETE", `songs/${id}`);
    songs.value = (songs.value ?? []).filter((s) => s.id !== id);
  }

  async function restore(id: number): Promise<void> {
    put(await ask<Song>("POST", `songs/${id}/restore`));
  }

  /** Undo the newest change of a song that can't be opened any more. */
  async function takeBack(id: number): Promise<void> {
    await ask("POST", `songs/${id}/transcription/undo`, { base: 0 });
    await refresh(id);
  }

  async function takeIn(id: number, file: File, told: (share: number) => void): Promise<void> {
    await upload(id, file, told);
    await refresh(id);
  }

  async function act(job: Job, what: "cancel" | "retry"): Promise<void> {
    await ask<Job>("POST", `jobs/${job.id}/${what}`);
  }

  return { songs, load, refresh, add, change, remove, restore, takeBack, takeIn, act };
});
