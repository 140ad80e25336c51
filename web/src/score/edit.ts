/** Edits shown at once, before the server confirms: only what needs no computing. */
import type { Edit, Patch, Score, Stroke, StrokeEdit } from "@/api/client";
import { classOf, loudnessOf } from "@/kit";

/** What an edit will change, or null where only the core can tell. */
export function foreseen(score: Score, edit: Edit): Patch | null {
  switch (edit.operation) {
    case "many":
      return together(score, edit.edits);
    case "confirm_bars": {
      const bars = new Set(score.confirmed);
      for (let b = edit.bar; b <= edit.last; b++) {
        if (edit.confirmed) bars.add(b);
        else bars.delete(b);
      }
      return { confirmed: [...bars].sort((a, b) => a - b) };
    }
    case "rename_section": // the others of the same music follow with the server's answer
      return { sections: score.sections.map((s) => (s.id === edit.id ? { ...s, name: edit.name } : s)) };
    case "add_stroke":
    case "remove_stroke":
    case "move_stroke":
    case "set_part":
    case "set_limb":
    case "set_dynamic":
    case "set_loudness":
    case "set_ornament":
    case "set_choked":
    case "set_doubt":
      return ofOne(score, edit);
    default:
      return null;
  }
}

function ofOne(score: Score, edit: StrokeEdit): Patch | null {
  const dynamic = edit.operation === "add_stroke" ? (edit.dynamic ?? "normal") : "normal";
  if (edit.operation === "add_stroke")
    return one({
      id: edit.id, bar: edit.bar, place: edit.place, part: edit.part, limb: edit.limb, dynamic,
      loudness: edit.loudness ?? loudnessOf(dynamic),
      ornament: edit.ornament ?? null, choked: edit.choked ?? false,
      doubt: "", reason: "", measured: null, confidence: 1, placed_by: "person", limb_by: "person",
    });
  const own = score.strokes.find((s) => s.id === edit.id);
  if (!own) return null;
  if (edit.operation === "remove_stroke") return { strokes: { [own.id]: null } };
  return one({ ...own, ...changed(own, edit) });
}

/** What an edit changes of a stroke that is there. */
function changed(own: Stroke, edit: Exclude<StrokeEdit, { operation: "add_stroke" | "remove_stroke" }>): Partial<Stroke> {
  const placed_by = "person" as const;
  switch (edit.operation) {
    case "move_stroke":
      return { bar: edit.bar, place: edit.place, placed_by };
    case "set_part":
      return { part: edit.part, placed_by };
    case "set_limb":
      return { limb: edit.limb, limb_by: "person" };
    case "set_dynamic":
      return { dynamic: edit.dynamic, loudness: loudnessOf(edit.dynamic), placed_by };
    case "set_loudness":
      return {
        loudness: edit.loudness,
        dynamic: classOf(edit.loudness),
        placed_by,
      };
    case "set_ornament":
      return { ornament: edit.ornament, placed_by };
    case "set_choked":
      return { choked: edit.choked, placed_by };
    case "set_doubt":
      return { doubt: edit.doubt, reason: edit.reason ?? "", confidence: edit.doubt ? own.confidence : 1 };
  }
}

function together(score: Score, edits: StrokeEdit[]): Patch | null {
  const strokes: NonNullable<Patch["strokes"]> = {};
  let ahead = score;
  for (const e of edits) {
    const patch = ofOne(ahead, e);
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
  const { strokes, perhaps, ...rest } = patch;
  return {
    ...score, ...rest, strokes: changedBy(score.strokes, strokes), perhaps: changedBy(score.perhaps, perhaps),
  } as Score;
}

/** What has an id, with some of it changed (null: gone) or new. */
function changedBy<T extends { id: string }>(own: T[], changes?: Record<string, T | null> | null): T[] {
  if (!changes) return own;
  const left = new Map(Object.entries(changes));
  const made: T[] = [];
  for (const s of own) {
    if (!left.has(s.id)) made.push(s);
    else {
      const now = left.get(s.id);
      if (now) made.push(now);
      left.delete(s.id);
    }
  }
  for (const added of left.values()) if (added) made.push(added);
  return made;
}
