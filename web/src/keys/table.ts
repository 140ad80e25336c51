/** Every shortcut, once: where it holds, its keys, what it does. Handlers (`useKeys`), the help (`?`),
 *  the caps and tooltips on the page and `docs/keys.md` are made from this table.
 *
 * A key is what the keyboard writes ("W", "?", "2"), so that it is where the person's layout has it:
 * only letters, digits and `, . ; : - + = / ' " ? ! < > ( ) _ * &` are used, which US, British, German
 * and French keyboards have unshifted or with Shift. Other keys go by their names, "Shift+" and
 * "Ctrl+" before them.
 */
import { mine } from "./mine";
import { PART_KEYS } from "./parts";

export interface Key {
  keys: readonly string[];
  does: string;
  /** How the help shows it, where its keys by themselves would not say it. */
  shows?: string;
}
const key = (keys: string | readonly string[], does: string, shows?: string): Key => ({
  keys: typeof keys === "string" ? [keys] : keys,
  does,
  shows,
});
const PARTS = Object.values(PART_KEYS);

/** By where they hold; a later scope goes before an earlier one where both are open. */
export const KEYS = {
  desk: {
    play: key(" ", "play and pause"),
    loopBar: key("_", "loop this bar, again: no loop"),
    loopBeat: key("(", "loop this beat"),
    loopPhrase: key(")", "loop this phrase"),
    nextSound: key("*", "what sounds, in turn"),
    recording: key("O", "hear the recording (the original)"),
    written: key("V", "hear the written part"),
    inTurn: key("U", "hear each for one pass, in turn"),
    nextTake: key('"', "another take in the recording's place"),
    drums: key("'", "drums as recorded, forward, back"),
    click: key("!", "click: off, beats, 8ths, 16ths, triplets"),
    countIn: key("&", "a bar is counted in"),
    narrow: key("N", "only the band of the part in hand"),
    backbone: key("Z", "only kick and backbeat of the written part"),
    slower: key("-", "slower"),
    faster: key("+", "faster"),
    home: key("Home", "to the beginning"),
    undo: key("Ctrl+z", "undo"),
    redo: key("Ctrl+Z", "redo"),
    takeIn: key("A", "to Take in"),
    pulse: key("P", "to the Pulse"),
    map: key("M", "to the Map"),
    bench: key("B", "to the Bench"),
    grooves: key("G", "to the Grooves"),
    fills: key("I", "to the Fills"),
    feel: key("E", "to the Feel"),
    hands: key("D", "to Kit and hands"),
    chart: key("R", "to the Chart"),
    practice: key("C", "to the Practice room (stages)"),
    nextView: key("PageDown", "next view"),
    viewBefore: key("PageUp", "the view before"),
    command: key("F2", "say what you want in words"),
    talk: key("F4", "comments and history"),
    help: key("?", "these keys"),
  },
  takeIn: {
    step: key(["ArrowUp", "ArrowDown"], "sound before, next sound"),
    five: key("Enter", "play five strokes of the sound"),
    forward: key(".", "the same with the drums forward"),
    right: key("=", "it is what it is called"),
    part: key(PARTS, "it is that part", "letter"),
    noDrum: key(["Delete", "Backspace"], "it is not a drum", "Del"),
    split: key("/", "it is two sounds: split it"),
  },
  pulse: {
    half: key("h", "half the tempo"),
    double: key("d", "double the tempo"),
    threeForTwo: key("3", "3 for 2"),
    twoForThree: key("2", "2 for 3"),
    tap: key("t", "tap along (eight beats or more)"),
    takeTaps: key("Enter", "take what was tapped"),
    dropTaps: key("Escape", "drop it"),
    one: key("1", "the beat at the cursor is the 1"),
    shift: key(["ArrowLeft", "ArrowRight"], "every 1 a beat earlier, later"),
    shiftHalf: key(["Shift+ArrowLeft", "Shift+ArrowRight"], "every beat half a beat earlier, later"),
    step: key([",", "."], "cursor a beat back, on"),
    insert: key("i", "add a beat"),
    remove: key("x", "take a beat away"),
    lock: key("l", "lock, unlock the section"),
  },
  map: {
    roomy: key("z", "whole song, roomy"),
    step: key([",", "."], "cursor a bar back, on"),
    border: key(["<", ">"], "the section at the cursor begins a bar earlier, later"),
    split: key("s", "split the section at the cursor"),
    join: key("j", "join it to the one before"),
  },
  grooves: {
    step: key(["<", ">"], "groove before, next groove"),
    core: key("c", "hear the core instead of the written part"),
    options: key("e", "the core with its options"),
    layer: key(["1", "2", "3", "4", "5", "6", "7"], "layers: time, backbeat, kick, ghosts, openings, ornaments, left foot", "1 … 7"),
    kick: key("k", "search for its kick"),
    hands: key("h", "search for its hands"),
    kickAndSnare: key("s", "search for kick and snare"),
  },
  fills: {
    step: key(["<", ">"], "fill before, next fill"),
    play: key("Enter", "play the fill"),
    lift: key("l", "lift the fill to the collection"),
    right: key("=", "it is a fill, as it stands"),
    noFill: key(["Delete", "Backspace"], "it is no fill", "Del"),
    begin: key(["ArrowLeft", "ArrowRight"], "it begins an 8th earlier, later"),
    end: key(["Shift+ArrowLeft", "Shift+ArrowRight"], "it ends an 8th earlier, later"),
    mark: key("n", "there is a fill in the bar that sounds"),
    asFound: key("u", "as it was found"),
  },
  feel: {
    step: key(["<", ">"], "section before, next section"),
    grid: key("g", "written part on the grid"),
    song: key("f", "with the song's feel"),
    measured: key("m", "as measured"),
  },
  practice: {
    step: key(["<", ">"], "stage before, next stage"),
    hear: key("c", "play the stage"),
    playIn: key("J", "play it in, on keys or pads; again: stop"),
    relaxed: key("1", "the loop was relaxed"),
    tense: key("2", "right, but tense"),
    notYet: key("3", "not yet"),
  },
  which: {
    answer: key(["1", "2", "3", "4", "5", "6", "7"], "answer"),
    hear: key("c", "hear it again"),
    next: key("Enter", "the next question"),
  },
  playIn: {
    strike: key(PARTS, "strike that part", "letter"),
    stop: key("Escape", "stop"),
  },
  bench: {
    cursor: key(["ArrowLeft", "ArrowRight"], "cursor along the count row"),
    cursorBeat: key(["Shift+ArrowLeft", "Shift+ArrowRight"], "a beat back, on"),
    limb: key(["ArrowUp", "ArrowDown"], "cursor from limb to limb"),
    bar: key(["<", ">"], "bar before, next bar"),
    confirm: key("=", "this bar is right: it keeps its places; again: no longer"),
    view: key("1", "1, 2, 4 bars or the phrase"),
    zoom: key("9", "one beat close up"),
    perhaps: key("7", "what is perhaps a stroke, faint on the spine; a click writes it"),
    grid: key(["2", "4", "8", "3", "6", "5"], "8ths, 16ths, 32nds, triplets, sextuplets, quintuplets"),
    part: key(PARTS, "write that part at the cursor, again: take it away", "letter"),
    fill: key("u", "the next letter's part on every step of the bar"),
    ghost: key("g", "ghost: of the chosen strokes, or of what is written next"),
    accent: key("v", "accent, likewise"),
    stepping: key("m", "the cursor steps on behind each stroke"),
    choose: key("Enter", "choose the stroke at the cursor"),
    leave: key("Escape", "choose none"),
    dynamic: key(".", "ghost, normal, accent"),
    ornament: key("i", "ornament: flam, drag, ruff, buzz, diddle, drop"),
    choke: key("z", "choked"),
    doubt: key("d", "doubtful, assumed, left out"),
    nudge: key([",", "/"], "move the chosen strokes earlier, later"),
    otherLimb: key("Tab", "the chosen strokes to the other hand or foot"),
    remove: key(["Delete", "Backspace"], "remove the chosen strokes", "Del"),
    chooseAll: key("Ctrl+a", "choose all of the bar"),
    copy: key("Ctrl+c", "copy (none chosen: the bar)"),
    cut: key("Ctrl+x", "cut"),
    paste: key("Ctrl+v", "paste"),
    applyAll: key(";", "the last change to all bars alike"),
    pickAlike: key(":", "choose to which"),
    text: key("y", "count text"),
    compare: key("j", "compare with another bar"),
    takeOver: key("0", "while comparing: the bar becomes what the other bar, or take, plays"),
    playIn: key("Y", "play the part in along with the recording"),
    review: key("Q", "walk the review queue"),
  },
  review: {
    right: key("Enter", "right"),
    wrong: key(["Delete", "Backspace"], "wrong", "Del"),
    part: key(PARTS, "it is that part", "letter"),
    leaveOut: key("L", "there, but left out"),
    assume: key("D", "can't be told: assumed"),
    split: key("/", "it is two sounds: split it"),
    skip: key(">", "later"),
    back: key("<", "the one before"),
    occurrence: key(["ArrowLeft", "ArrowRight"], "another bar in which it occurs"),
    stop: key(["Escape", "Q"], "stop here", "Esc"),
  },
  text: {
    write: key("Ctrl+Enter", "write the text into the bars"),
  },
  tapping: {
    tap: key("t", "a note of the cue"),
    take: key(["Enter", " "], "take it"),
    drop: key("Escape", "drop it"),
  },
  playing: {
    strike: key(PARTS, "strike that part", "letter"),
    take: key(["Enter", " ", "Y"], "take what was played", "Enter"),
    drop: key("Escape", "drop it"),
  },
} as const satisfies Record<string, Record<string, Key>>;

export type Scope = keyof typeof KEYS;
export type Action<S extends Scope> = keyof (typeof KEYS)[S];
export const SCOPES = Object.keys(KEYS) as Scope[];
export const SCOPE_NAMES: Record<Scope, string> = {
  desk: "Everywhere", takeIn: "Take in", pulse: "Pulse", map: "Map", grooves: "Grooves", fills: "Fills", feel: "Feel",
  practice: "Practice", which: "Practice, Which was it?", playIn: "Practice, playing in", bench: "Bench", review: "Bench, in the review queue", text: "Bench, in the count text",
  tapping: "Bench, tapping a cue", playing: "Bench, playing in",
};

const CAPS: Record<string, string> = {
  " ": "Space", ArrowLeft: "←", ArrowRight: "→", ArrowUp: "↑", ArrowDown: "↓", Enter: "⏎", Escape: "Esc",
  Delete: "Del", Backspace: "⌫", PageDown: "PgDn", PageUp: "PgUp",
};
/** A key as its cap is printed: "Ctrl Shift Z", "⏎". */
export function cap(name: string): string {
  if (/^Ctrl\+[A-Z]$/.test(name)) return `Ctrl Shift ${name.at(-1)!}`;
  const parts = name.length === 1 ? [name] : name.split("+");
  const last = parts.pop()!;
  return [...parts, CAPS[last] ?? (parts.length && last.length === 1 ? last.toUpperCase() : last)].join(" ");
}
/** By which name a row's own keys are kept: the letters of the parts are the same everywhere. */
export function nameOfRow(scope: Scope, action: string): string {
  return (KEYS[scope] as Record<string, Key>)[action]!.keys === PARTS ? "parts" : `${scope}.${action}`;
}
/** The row of an action, with the keys that the person chose. */
export function row<S extends Scope>(scope: S, action: Action<S>): Key {
  const usual = (KEYS[scope] as Record<string, Key>)[action as string]!;
  const own = mine.value[nameOfRow(scope, action as string)];
  if (own?.length !== usual.keys.length) return usual;
  return { ...usual, keys: own, shows: usual.keys === PARTS ? usual.shows : undefined };
}
/** The letter of a part of the kit; "" for one that has none. */
export function partKey(part: string): string {
  const at = Object.keys(PART_KEYS).indexOf(part);
  return at < 0 ? "" : (mine.value.parts?.length === PARTS.length ? mine.value.parts : PARTS)[at]!;
}
/** A row that a key would be taken from, or that would be hidden while another is open. */
export interface Taken {
  scope: Scope;
  action: string;
  which: number;
}
/** Where a key is used already: within the same scope it has to give way, elsewhere the inner goes first. */
export function usersOf(key: string, scope: Scope): { here: Taken[]; elsewhere: Taken[] } {
  const users = SCOPES.flatMap((s) =>
    Object.keys(KEYS[s]).flatMap((action) =>
      row(s, action as never).keys.flatMap((k, which) => (k === key ? [{ scope: s, action, which }] : [])),
    ),
  );
  return {
    here: users.filter((u) => u.scope === scope),
    elsewhere: users.filter((u) => u.scope !== scope && (u.scope === "desk" || scope === "desk")),
  };
}
/** What is to be kept so that a key does an action; a row of the same scope that had it takes the old one. */
export function exchanged(scope: Scope, action: string, which: number, key: string): Record<string, string[]> {
  const keys = [...row(scope, action as never).keys];
  const old = keys[which]!;
  keys[which] = key;
  const made: Record<string, string[]> = { [nameOfRow(scope, action)]: keys };
  for (const user of usersOf(key, scope).here) {
    const name = nameOfRow(user.scope, user.action);
    if (name === nameOfRow(scope, action)) keys[user.which] = keys[user.which] === key && user.which !== which ? old : keys[user.which]!;
    else {
      const theirs = made[name] ?? [...row(user.scope, user.action as never).keys];
      theirs[user.which] = old;
      made[name] = theirs;
    }
  }
  return made;
}
/** How an action's key is shown: its first key, or all of a few. */
export function shown(of: Key): string {
  const caps = of.keys.map(cap);
  // What is held is said once: "Shift ← →".
  return of.shows ?? caps.map((c, n) => (n && c.startsWith("Shift ") ? c.slice(6) : c)).join(" ");
}
/** A tooltip with its key: "Click (!)". */
export function withKey<S extends Scope>(says: string, scope: S, action: Action<S>): string {
  return `${says} (${shown(row(scope, action))})`;
}

/** The table for the user's guide. */
export function markdown(): string {
  const cell = (text: string) => text.replaceAll("|", "\\|");
  const told = SCOPES.flatMap((scope) => [
    `\n## ${SCOPE_NAMES[scope]}\n`,
    "| key | does |\n|---|---|",
    ...Object.values(KEYS[scope] as Record<string, Key>).map((k) => `| \`${cell(shown(k))}\` | ${cell(k.does)} |`),
  ]);
  const intro = "# Keys\n\nMade from `web/src/keys/table.ts`. A key is what the keyboard writes, wherever your layout has it.";
  return `${[intro, ...told].join("\n")}\n`;
}
