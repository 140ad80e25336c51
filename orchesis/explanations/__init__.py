"""Findings in words: the one place where what was found out becomes sentences."""

from orchesis.explanations.bars import difference, differences, offer, told_difference, told_offer
from orchesis.explanations.doubts import decision, doubt, sound, tally
from orchesis.explanations.feel import feel
from orchesis.explanations.fills import fill_entry, fill_resolution, told_fill
from orchesis.explanations.form import form_event
from orchesis.explanations.grooves import (
    across,
    groove,
    groove_differences,
    once,
    option_bars,
    option_company,
    option_name,
    option_pattern,
    phrase,
    related,
    relation,
    told_groove,
)
from orchesis.explanations.learning import (
    kick_and_bass,
    returned,
    to_learn,
    told_passage,
    told_reuse,
)
from orchesis.explanations.limbs import (
    alternative,
    cause,
    limb_rule,
    proposal,
    saying,
    school,
    unplayable,
    way,
)

__all__ = [
    "across",
    "alternative",
    "cause",
    "decision",
    "difference",
    "differences",
    "doubt",
    "feel",
    "fill_entry",
    "fill_resolution",
    "form_event",
    "groove",
    "groove_differences",
    "kick_and_bass",
    "limb_rule",
    "offer",
    "once",
    "option_bars",
    "option_company",
    "option_name",
    "option_pattern",
    "phrase",
    "proposal",
    "related",
    "relation",
    "returned",
    "saying",
    "school",
    "sound",
    "tally",
    "to_learn",
    "told_difference",
    "told_fill",
    "told_groove",
    "told_offer",
    "told_passage",
    "told_reuse",
    "unplayable",
    "way",
]
