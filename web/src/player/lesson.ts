/** A lesson as its link holds it, kept on the device with where each ladder stands. */
import { useLocalStorage } from "@vueuse/core";
import { computed, ref, shallowRef } from "vue";
import type { Schemas } from "@/api/client";
import { climbed, type Rung } from "@/practice/ladder";
import { Clock } from "@/score/time";

export type Lesson = Schemas["GivenLesson"];
export type Passage = Lesson["passages"][number];
export type Stage = Passage["stages"][number];
const AWAY = "There is no network just now. Lessons that were opened on this device before still work.";
const ENDED = "This lesson is no longer shared. Ask the person who gave you the link.";
/** What the player agreed to tell, and as whom. */
interface Told {
  agrees: boolean;
  name: string;
}

export function useLesson(token: string) {
  const lesson = shallowRef<Lesson | null>(null);
  const complaint = ref("");
  const isAway = ref(false);
  const rungs = useLocalStorage<Record<string, Rung>>(`orchesis.lesson.${token}`, {});
  const minutes = useLocalStorage(`orchesis.lesson.${token}.minutes`, 0);
  const told = useLocalStorage<Told>(`orchesis.lesson.${token}.told`, { agrees: false, name: "" });
  /** Whether the server said that the lesson is no longer shared: it is not opened here again. */
  const isEnded = useLocalStorage(`orchesis.lesson.${token}.ended`, false);
  const device = useLocalStorage("orchesis.device", () => crypto.randomUUID().slice(0, 18)).value as unknown as string;
  const address = `/api/player/${encodeURIComponent(token)}`;

  async function open(): Promise<void> {
    try {
      const answer = await fetch(address);
      if (answer.status === 404) return end();
      const body = (await answer.json()) as Lesson & { detail?: string };
      if (!answer.ok) throw new Error(body.detail ?? AWAY);
      isEnded.value = false;
      lesson.value = body;
      document.title = body.title;
      keep(body);
    } catch (problem) {
      complaint.value = problem instanceof TypeError ? (isEnded.value ? ENDED : AWAY) : (problem as Error).message;
    }
  }
  /** Nothing of a lesson that is no longer shared stays on the device; the worker deletes its pages. */
  function end(): void {
    lesson.value = null;
    complaint.value = ENDED;
    isEnded.value = true;
    rungs.value = {};
    minutes.value = 0;
    told.value = { agrees: false, name: "" };
  }
  /** What a lesson needs where the network drops is fetched once, behind everything else. */
  function keep(given: Lesson): void {
    void navigator.serviceWorker?.ready.then((worker) => {
      const loaded = performance.getEntriesByType("resource").map((r) => new URL(r.name)).filter((u) => u.origin === location.origin).map((u) => u.pathname);
      const fonts = ["/static/fonts/OrchesisNotes.otf"];
      const pages = Array.from({ length: given.pages }, (_, n) => `${address}/pages/${n + 1}`);
      worker.active?.postMessage({ keep: [location.pathname, address, ...new Set(loaded), ...fonts, ...pages] });
    });
  }
  const clock = computed(() => lesson.value && new Clock({ meters: lesson.value.meters, pulse: lesson.value.pulse, swing: lesson.value.swing } as never));
  const keyOf = (p: Passage, s: Stage) => `${p.first}-${p.last}.${p.order}.${s.title}`;
  const rungOf = (p: Passage, s: Stage): Rung => rungs.value[keyOf(p, s)] ?? s.rung;
  function judged(p: Passage, s: Stage, judgement: string, seconds: number): void {
    rungs.value = { ...rungs.value, [keyOf(p, s)]: climbed(rungOf(p, s), s.rungs, s.run, judgement) };
    minutes.value += seconds / 60;
    void tell();
  }
  /** To the teacher, where the player agrees; what can't be sent now goes with the next one. */
  async function tell(): Promise<void> {
    if (!told.value.agrees || !told.value.name.trim() || !lesson.value) return;
    const stages = lesson.value.passages.flatMap((p) =>
      p.stages.filter((s) => rungs.value[keyOf(p, s)]).map((s) => {
        const rung = rungOf(p, s);
        return { title: `${p.title}: ${s.title}`.slice(0, 200), tempo: rung.tempo, goal: s.rungs.at(-1)!, is_learned: rung.is_learned };
      }),
    );
    const body = JSON.stringify({ device, name: told.value.name.trim().slice(0, 60), minutes: minutes.value, stages });
    isAway.value = !(await fetch(`${address}/progress`, { method: "POST", headers: { "Content-Type": "application/json" }, body }).then((r) => r.ok, () => false));
  }
  /** The player no longer agrees: what the teacher had is deleted. */
  const forget = () => void fetch(`${address}/progress?device=${device}`, { method: "DELETE" }).catch(() => {});
  return { lesson, complaint, isAway, clock, told, minutes, address, open, rungOf, judged, tell, forget };
}
