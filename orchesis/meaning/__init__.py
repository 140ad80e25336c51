"""What the strokes say: grooves, fills, feel, figures, doubts, likeness, search."""
