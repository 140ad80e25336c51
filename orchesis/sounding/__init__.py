"""Score -> audio with our own kit."""

from orchesis.sounding.render import KIT_FOLDER, layer_for, render

__all__ = ["KIT_FOLDER", "layer_for", "render"]
