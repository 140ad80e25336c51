/** The edits that make a bar what another one, or another take, plays. */
import type { Comparison, StrokeEdit } from "@/api/client";
import { freshId } from "./clipboard";

/** What leads from the bar (b) to the other (a). How loud a stroke is counts within one take only. */
export function takenOver(found: Comparison, bar: number, isTake: boolean): StrokeEdit[] {
  const theirs = new Map(found.a.map((s) => [s.id, s]));
  const edits: StrokeEdit[] = [];
  for (const d of found.differences) {
    const a = d.a ? theirs.get(d.a) : undefined;
    if (!a) {
      if (d.b) edits.push({ operation: "remove_stroke", id: d.b });
    } else if (!d.b)
      edits.push({
        operation: "add_stroke", id: freshId(), bar, place: a.place, part: a.part, limb: a.limb,
        dynamic: a.dynamic, loudness: a.loudness, ornament: a.ornament ?? undefined, choked: a.choked,
      });
    else if (d.kind === "moved") edits.push({ operation: "move_stroke", id: d.b, bar, place: a.place });
    else if (d.kind === "part") edits.push({ operation: "set_part", id: d.b, part: a.part });
    else if (d.kind === "limb") edits.push({ operation: "set_limb", id: d.b, limb: a.limb });
    else if (d.kind === "ornament" && !isTake) edits.push({ operation: "set_ornament", id: d.b, ornament: a.ornament });
    else if ((d.kind === "louder" || d.kind === "softer") && !isTake) edits.push({ operation: "set_dynamic", id: d.b, dynamic: a.dynamic });
  }
  return edits;
}
