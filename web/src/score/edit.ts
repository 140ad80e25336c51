/** Edits shown at once, before the server confirms: only what needs no computing. */
import type { Patch, Score, Section, Stroke } from "@/api/client";

export type Args = Record<string, unknown>;

const CLASS_LOUDNESS: Record<string, number> = { ghost: 0.3, normal: 0.7, accent: 0.95 };

/** What an operation will change, or null where only the core can tell. */
export function foreseen(score: Score, operation: string, args: Args): Patch | null {
  const own = score.strokes.find((s) => s.id === args.id);
  const written = { origin: "written" as const };
  switch (operation) {
    case "add_stroke":
      return one({
        id: args.id as string,
        bar: args.bar as number,
        place: args.place as string,
        part: args.part as string,
        limb: args.limb as Stroke["limb"],
        dynamic: (args.dynamic as Stroke["dynamic"]) ?? "normal",
        loudness: (args.loudness as number) ?? CLASS_LOUDNESS[(args.dynamic as string) ?? "normal"]!,
        ornament: (args.ornament as string) ?? null,
        choked: (args.choked as boolean) ?? false,
        doubt: "",
        reason: "",
        time: null,
        confidence: 1,
        ...written,
      });
    case "remove_stroke":
      return own ? { strokes: { [own.id]: null } } : null;
    case "move_stroke":
      return own
        ? one({ ...own, bar: args.bar as number, place: args.place as string, ...written })
        : null;
    case "set_part":
      return own ? one({ ...own, part: args.part as string, ...written }) : null;
    case "set_limb":
      return own ? one({ ...own, limb: args.limb as Stroke["limb"], ...written }) : null;
    case "set_dynamic": {
      const dynamic = args.dynamic as Stroke["dynamic"];
      return own
        ? one({ ...own, dynamic, loudness: CLASS_LOUDNESS[dynamic]!, ...written })
        : null;
    }
    case "set_loudness": {
      const loudness = args.loudness as number;
      const dynamic = loudness < 0.45 ? "ghost" : loudness > 0.85 ? "accent" : "normal";
      return own ? one({ ...own, loudness, dynamic, ...written }) : null;
    }
    case "set_ornament":
      return own ? one({ ...own, ornament: args.ornament as string | null, ...written }) : null;
    case "set_choked":
      return own ? one({ ...own, choked: args.choked as boolean, ...written }) : null;
    case "set_doubt": {
      const doubt = args.doubt as Stroke["doubt"];
      return own
        ? one({ ...own, doubt, reason: (args.reason as string) ?? "", confidence: doubt ? own.confidence : 1 })
        : null;
    }
    case "many":
      return together(score, args.edits as { operation: string; args: Args }[]);
    case "confirm_bars": {
      const bars = new Set(score.confirmed);
      for (let b = args.bar as number; b <= (args.last as number); b++) {
        if (args.confirmed) bars.add(b);
        else bars.delete(b);
      }
      return { confirmed: [...bars].sort((a, b) => a - b) };
    }
    case "rename_section":
      return {
        sections: score.sections.map((s: Section) =>
          s.id === args.id ? { ...s, name: args.name as string } : s,
        ),
      };
    default:
      return null;
  }
}

function together(score: Score, edits: { operation: string; args: Args }[]): Patch | null {
  const strokes: NonNullable<Patch["strokes"]> = {};
  let ahead = score;
  for (const e of edits) {
    const patch = foreseen(ahead, e.operation, e.args);
    if (!patch) return null;
    Object.assign(strokes, patch.strokes);
    ahead = patched(ahead, patch);
  }
  return { strokes };
}

function one(stroke: Stroke): Patch {
  return { strokes: { [stroke.id]: stroke } };
}

/** The score with a patch applied; what did not change keeps its identity. */
export function patched(score: Score, patch: Patch): Score {
  const { strokes: changes, ...rest } = patch;
  let strokes = score.strokes;
  if (changes) {
    const left = new Map(Object.entries(changes));
    strokes = [];
    for (const s of score.strokes) {
      if (!left.has(s.id)) strokes.push(s);
      else {
        const now = left.get(s.id);
        if (now) strokes.push(now);
        left.delete(s.id);
      }
    }
    for (const added of left.values()) if (added) strokes.push(added);
  }
  return { ...score, ...rest, strokes } as Score;
}
