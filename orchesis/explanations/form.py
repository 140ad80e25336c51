"""The form in words."""

from __future__ import annotations

from orchesis.form.form_events import FormEvent


def form_event(e: FormEvent) -> str:
    """What happens in the form at a bar."""
    match e.kind:
        case "enters" | "leaves":
            return f"{e.layer} {e.kind}"
        case "surface":
            by = " and ".join(f"a {x}" for x in e.by)
            how = f", announced by {by}" if by else ", without announcement"
            return f"{e.before} to {e.after}{how}"
        case "rest":
            return f"{e.bars} bar{'s' if e.bars > 1 else ''} of rest"
        case "meter":
            return e.meter
        case "disagrees":
            return "confirmed, but the sound lies elsewhere now"
        case "build":
            return f"builds by {e.rise:.0f} dB up to bar {e.last}"
        case "fade":
            return "fades out from here"
    raise ValueError(f"No words for {e.kind}.")
