"""The form of a song: its sections, their names and what happens in them. From the score alone."""

from orchesis.form.section_facts import SectionFacts, alike, never, parts_in, pattern, section_facts

__all__ = ["SectionFacts", "alike", "never", "parts_in", "pattern", "section_facts"]
