"""Hits -> strokes on written places: quantising, ornaments, dynamics."""
