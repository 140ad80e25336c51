/** What a person says in words, understood: places, loops, speed, a change of many strokes, or any
 *  action that has a key. The answers, likeliest first. */
import type { Stroke, StrokeEdit } from "@/api/client";
import { layerOf, PARTS } from "@/kit";
import { row, SCOPE_NAMES, shown, type Scope } from "@/keys/table";
import type { doable } from "@/keys/useKeys";
import { many } from "@/desk/words";

export interface CommandAnswer {
  says: string;
  /** The key that does the same, where one does. */
  key: string;
  run: () => void;
}
/** What the words are about: the song, where one is in it, and what can be done there. */
export interface World {
  bars: number;
  bar: number;
  sections: readonly { name: string; first_bar: number; bars: number }[];
  strokes: readonly Stroke[];
  mayEdit: boolean;
  go: (bar: number) => void;
  loop: (first: number, last: number) => void;
  speed: (share: number) => void;
  edit: (edits: StrokeEdit[]) => void;
  doable: ReturnType<typeof doable>;
}
const MOST_STROKES = 2000;
const plain = (text: string) => text.toLowerCase().replace(/[^\p{L}\p{N}%&]+/gu, " ").trim();

export function answersTo(said: string, world: World): CommandAnswer[] {
  const words = plain(said);
  if (!words) return [];
  return [...places(words, world), ...strokes(words, world), ...actions(words, world)].slice(0, 9);
}

/** Sections that some words name: "chorus", "chorus 2" (the second of that name), "last verse". */
function sectionsNamed(words: string, { sections }: World): World["sections"][number][] {
  const exact = sections.filter((s) => plain(s.name) === words);
  if (exact.length) return exact.slice(0, 3);
  const numbered = /^(.+?) (\d+)$/.exec(words);
  const last = /^last (.+)$/.exec(words);
  const stem = numbered?.[1] ?? last?.[1] ?? words;
  if (stem.length < 2) return [];
  const named = sections.filter((s) => plain(s.name).startsWith(stem));
  if (numbered) return named.slice(Number(numbered[2]) - 1, Number(numbered[2]));
  return last ? named.slice(-1) : named.slice(0, 3);
}

function places(words: string, world: World): CommandAnswer[] {
  const speed = /^(?:speed|slower|faster|slow|tempo)? ?(?:to )?(\d{2,3}) ?(%|percent)$|^(?:speed|slower to|faster to) (\d{2,3})$/.exec(words);
  if (speed) {
    const share = Number(speed[1] ?? speed[3]) / 100;
    if (share >= 0.25 && share <= 1.5) return [{ says: `Play at ${Math.round(share * 100)} %`, key: "", run: () => world.speed(share) }];
  }
  const looping = /^loop (.+)$/.exec(words);
  const where = (looping?.[1] ?? words).replace(/^(?:go |jump |play )?(?:to |from |at )?(?:the )?/, "");
  const span = /^(?:bars?|measures?)? ?(\d+)(?: (?:to |and |until )?(\d+))?$/.exec(where);
  if (span) {
    const first = Number(span[1]);
    const last = Number(span[2] ?? first);
    if (first < 1 || last < first || last > world.bars) return [{ says: `The song has ${many(world.bars, "bar")}`, key: "", run: () => {} }];
    if (looping || span[2]) return [{ says: first === last ? `Loop bar ${first}` : `Loop bars ${first} to ${last}`, key: "", run: () => world.loop(first, last) }];
    return [{ says: `Go to bar ${first}`, key: "", run: () => world.go(first) }];
  }
  return sectionsNamed(where, world).map((s) => {
    const last = s.first_bar + s.bars - 1;
    const told = `${s.name}, bars ${s.first_bar} to ${last}`;
    return looping
      ? { says: `Loop ${told}`, key: "", run: () => world.loop(s.first_bar, last) }
      : { says: `Go to ${told}`, key: "", run: () => world.go(s.first_bar) };
  });
}

/** A word without its plural: hats, crashes, china. */
const single = (word: string) => [word, word.replace(/s$/, ""), word.replace(/es$/, "")];
/** Strokes by what a drummer calls them: "ghosts", "accents", "hats", "open hats", a part, a family of parts. */
function chosenBy(words: string): ((s: Stroke) => boolean) | null {
  const tokens = words.split(" ").map(single);
  const is = (...names: string[]) => tokens.length === 1 && names.some((n) => tokens[0]!.includes(n));
  if (is("stroke", "note")) return () => true;
  for (const dynamic of ["ghost", "accent"]) if (is(dynamic)) return (s) => s.dynamic === dynamic;
  if (is("cymbal")) return (s) => PARTS.find((p) => p.name === s.part)!.family === "cymbal";
  if (is("backbeat")) return (s) => layerOf(s) === "backbeat";
  // All words that were said are among the words of the part: "open hats", "floor tom", "hats".
  const named = PARTS.filter((p) => {
    const own = `${plain(p.label)} ${p.name.replaceAll("_", " ")}`.split(" ");
    return tokens.every((forms) => forms.some((f) => own.includes(f)));
  }).map((p) => p.name as string);
  return named.length ? (s) => named.includes(s.part) : null;
}
const CHANGES: [RegExp, string, (s: Stroke) => StrokeEdit | null][] = [
  [/^(softer|quieter|down)$/, "softer", (s) => ({ operation: "set_loudness", id: s.id, loudness: round(s.loudness * 0.8) })],
  [/^(louder|up)$/, "louder", (s) => (s.loudness >= 1 ? null : { operation: "set_loudness", id: s.id, loudness: round(Math.min(1, s.loudness * 1.25)) })],
  [/^(?:to |into |as )?ghosts?$/, "ghosts", (s) => (s.dynamic === "ghost" ? null : { operation: "set_dynamic", id: s.id, dynamic: "ghost" })],
  [/^(?:to |into |as )?accent(?:s|ed)?$/, "accented", (s) => (s.dynamic === "accent" ? null : { operation: "set_dynamic", id: s.id, dynamic: "accent" })],
  [/^(?:to |as )?(?:normal|plain)$/, "normal", (s) => (s.dynamic === "normal" ? null : { operation: "set_dynamic", id: s.id, dynamic: "normal" })],
  [/^(?:left |leave )?out$/, "left out", (s) => (s.doubt === "left_out" ? null : { operation: "set_doubt", id: s.id, doubt: "left_out", reason: "" })],
];
const round = (x: number) => Math.round(x * 1000) / 1000;

function strokes(words: string, world: World): CommandAnswer[] {
  const said = /^(?:make |set )?(?:all|every|each) (?:the )?(.+)$/.exec(words);
  if (!said) return [];
  let [rest, first, last, where] = [said[1]!, 1, world.bars, "of the song"];
  const here = / (?:in |of )?(?:this|the) (bar|section)(?= |$)| (?:in |of )?bars? (\d+)(?: (?:to )?(\d+))?(?= |$)/.exec(rest);
  if (here) {
    rest = rest.replace(here[0], "");
    const section = world.sections.find((s) => s.first_bar <= world.bar && world.bar < s.first_bar + s.bars);
    if (here[1] === "bar") [first, last, where] = [world.bar, world.bar, `of bar ${world.bar}`];
    else if (here[1] && section) [first, last, where] = [section.first_bar, section.first_bar + section.bars - 1, `of ${section.name}`];
    else if (here[2]) [first, last, where] = [Number(here[2]), Number(here[3] ?? here[2]), `of bars ${here[2]} to ${here[3] ?? here[2]}`];
  }
  const tokens = rest.trim().split(" ");
  for (let n = tokens.length - 1; n > 0; n--) {
    const which = chosenBy(tokens.slice(0, n).join(" "));
    const change = CHANGES.find(([says]) => says.test(tokens.slice(n).join(" ")));
    if (!which || !change) continue;
    const own = world.strokes.filter((s) => first <= s.bar && s.bar <= last && which(s));
    const edits = own.map((s) => change[2](s)).filter((e) => e !== null);
    const name = tokens.slice(0, n).join(" ");
    if (!edits.length) return [{ says: `No ${name} ${where} to be ${change[1]}`, key: "", run: () => {} }];
    if (edits.length > MOST_STROKES) return [{ says: `${edits.length} strokes are too many at once: name bars, or “in this section”`, key: "", run: () => {} }];
    if (!world.mayEdit) return [{ says: "This song is shared with you to play along", key: "", run: () => {} }];
    return [{ says: `${many(edits.length, "stroke")} (${name} ${where}) ${change[1]}`, key: "", run: () => world.edit(edits) }];
  }
  return [];
}

/** Actions whose words, or the name of where they hold, begin with all that was said. */
function actions(words: string, world: World): CommandAnswer[] {
  const tokens = words.split(" ").filter((t) => !["the", "a", "to", "of", "please", "me"].includes(t));
  if (!tokens.length) return [];
  const found = world.doable.map((d, order) => {
    const own = row(d.scope, d.action as never);
    const told = plain(`${d.does} ${SCOPE_NAMES[d.scope as Scope]}`).split(" ");
    const hits = tokens.map((t) => told.findIndex((w) => w.startsWith(t) || (t.length > 3 && w.length > 3 && t.startsWith(w))));
    const exact = tokens.filter((t) => told.includes(t)).length;
    return { d, own, fits: hits.every((h) => h >= 0), weight: exact * 10 - Math.min(...hits.filter((h) => h >= 0), 99) - order / 100 };
  });
  return found
    .filter((f) => f.fits && !f.own.keys.some((k) => k === "F2"))
    .sort((a, b) => b.weight - a.weight)
    .slice(0, 7)
    .map(({ d, own }) => ({ says: d.does[0]!.toUpperCase() + d.does.slice(1), key: shown(own), run: () => d.run(own.keys.length > 1 ? own.keys.length - 1 : 0) }));
}
