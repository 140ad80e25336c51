"""What is known of a stroke becomes three facts: what was measured, who placed it, who chose its
limb. Before, one word ("origin") stood for all of them, and a moment that an edit of the pulse
had reckoned looked like a measured one."""

import re

from django.db import migrations

_HEARD = re.compile(r"h\d+")


def forward(apps, _schema):
    Transcription = apps.get_model("transcription", "Transcription")
    for found in Transcription.objects.iterator(chunk_size=1):
        done = _done_to_strokes(found)
        levels = _levels(found.analysis)

        def upgraded(stroke, done=done, levels=levels):
            return _upgraded(stroke, done.get(stroke["id"], set()), levels)

        document = found.document
        document["strokes"] = [upgraded(s) for s in document["strokes"]]
        document["aside"] = [_aside(s, upgraded) for s in document.get("aside", ())]
        document.setdefault("aside_words", [])
        found.save(update_fields=["document"])
        for line in found.edits.iterator(chunk_size=50):
            for patch in (line.patch, line.inverse):
                if "strokes" in patch:
                    patch["strokes"] = {
                        key: upgraded(s) if s is not None else None
                        for key, s in patch["strokes"].items()
                    }
                if "aside" in patch:
                    patch["aside"] = [_aside(s, upgraded) for s in patch["aside"]]
            if line.operation == "many":
                line.args = {"edits": [_flat(e) for e in line.args.get("edits", ())]}
            line.save(update_fields=["patch", "inverse", "args"])
    for kept in apps.get_model("transcription", "KeptFill").objects.iterator():
        strokes = kept.document.get("strokes", ())
        kept.document["strokes"] = [_upgraded(s, set(), {}) | {"measured": None} for s in strokes]
        kept.save(update_fields=["document"])


def _flat(edit):
    return {"operation": edit["operation"], **edit.get("args", {})} if "args" in edit else edit


def _done_to_strokes(found):
    """What persons did to each stroke, by its id."""
    done = {}
    for line in found.edits.filter(kind="do").iterator(chunk_size=50):
        named = line.args.get("edits") or [{"operation": line.operation, "args": line.args}]
        if line.operation in ("many", "add_stroke") or "id" in line.args:
            for edit in named:
                key = edit.get("args", {}).get("id")
                done.setdefault(key, set()).add(edit["operation"])
        else:
            for key in line.patch.get("strokes", {}):
                done.setdefault(key, set()).add(line.operation)
    return done


def _levels(analysis):
    hits = analysis.get("hits", ())
    return {(h["time"], h["part"]): (h.get("level"), h.get("openness")) for h in hits}


#: Edits that change nothing but the moment of a stroke, or the bar that it stands in.
_OF_THE_PULSE = {
    "halve_tempo", "double_tempo", "retime", "shift_one", "shift_half", "set_one", "set_meter",
    "insert_beat", "remove_beat", "drag_beat", "tap",
}


def _upgraded(stroke, done, levels):
    if "placed_by" in stroke:
        return stroke
    made = {k: v for k, v in stroke.items() if k not in ("time", "origin")}
    time, is_heard = stroke.get("time"), _HEARD.fullmatch(stroke["id"]) is not None
    level, openness = levels.get((round(time, 4), stroke["part"]), (None, None)) if time else (None,) * 2
    if not stroke["part"].startswith("hat"):
        openness = None
    measured = {"time": time, "level": level, "openness": openness}
    made["measured"] = measured if is_heard and time is not None else None
    only_limb = is_heard and not done - _OF_THE_PULSE - {"set_limb", "set_doubt"}
    is_written = stroke.get("origin") == "written"
    made["placed_by"] = "person" if is_written and not only_limb else "heard" if is_heard else "person"
    made["limb_by"] = "person" if is_written and done & {"set_limb", "add_stroke"} else "program"
    return made


def _aside(stroke, upgraded):
    return stroke if "moment" in stroke else {**upgraded(stroke), "moment": stroke.get("time") or 0.0}


class Migration(migrations.Migration):
    dependencies = [("transcription", "0003_edit_keys")]
    operations = [migrations.RunPython(forward, migrations.RunPython.noop)]
