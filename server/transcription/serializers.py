from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field
from rest_framework import serializers

from orchesis.editing import AnyEdit
from orchesis.score.kit import KIT
from orchesis.score.stroke import CHOOSERS, DOUBTS, DYNAMICS, LIMBS, ORNAMENTS, PLACERS


class MeasuredSerializer(serializers.Serializer):
    """What was measured of a stroke: seconds of the recording, dB against the whole of it, and
    how far a hat was open (0 to 1)."""

    time = serializers.FloatField()
    level = serializers.FloatField(allow_null=True)
    openness = serializers.FloatField(allow_null=True)


class StrokeSerializer(serializers.Serializer):
    id = serializers.CharField()
    bar = serializers.IntegerField()
    place = serializers.CharField()
    part = serializers.ChoiceField(list(KIT))
    limb = serializers.ChoiceField(list(LIMBS))
    dynamic = serializers.ChoiceField(list(DYNAMICS))
    loudness = serializers.FloatField()
    ornament = serializers.ChoiceField(list(ORNAMENTS), allow_null=True)
    measured = MeasuredSerializer(allow_null=True)
    confidence = serializers.FloatField()
    placed_by = serializers.ChoiceField(list(PLACERS))
    limb_by = serializers.ChoiceField(list(CHOOSERS))
    choked = serializers.BooleanField(required=False)
    doubt = serializers.ChoiceField(list(DOUBTS), required=False)
    reason = serializers.CharField(allow_blank=True, required=False)


class AsideSerializer(StrokeSerializer):
    """A stroke that has no place on the bars now, and the moment (seconds) it belongs to."""

    moment = serializers.FloatField()


class AsideWordsSerializer(serializers.Serializer):
    """A note, or the words of a cue, that share their bar with others now."""

    id = serializers.CharField()
    moment = serializers.FloatField()
    kind = serializers.ChoiceField(["note", "cue"])
    text = serializers.CharField()


class SectionSerializer(serializers.Serializer):
    id = serializers.CharField()
    name = serializers.CharField()
    label = serializers.CharField()  # type: ignore[assignment] # shadows the field's own label
    first_bar = serializers.IntegerField()
    bars = serializers.IntegerField()
    note = serializers.CharField(allow_blank=True)
    sound = serializers.DictField(child=serializers.CharField())


class CueSerializer(serializers.Serializer):
    places = serializers.ListField(child=serializers.CharField())
    words = serializers.CharField(allow_blank=True)


class ScoreSerializer(serializers.Serializer):
    title = serializers.CharField()
    artist = serializers.CharField()
    meters = serializers.ListField(child=serializers.CharField())
    pulse = serializers.ListField(child=serializers.FloatField())
    swing = serializers.ListField(child=serializers.JSONField())
    sections = SectionSerializer(many=True)
    locked = serializers.ListField(child=serializers.ListField(child=serializers.FloatField()))
    confirmed = serializers.ListField(child=serializers.IntegerField())
    aside = AsideSerializer(many=True)
    aside_words = AsideWordsSerializer(many=True)
    notes = serializers.DictField(child=serializers.CharField())
    sound = serializers.DictField(child=serializers.CharField())
    notation = serializers.CharField()
    settled = serializers.ListField(child=serializers.CharField(), required=False)
    cues = serializers.DictField(child=CueSerializer(), required=False)
    ones = serializers.ListField(
        child=serializers.ListField(child=serializers.FloatField()), required=False
    )
    sounding = serializers.ListField(
        child=serializers.FloatField(), allow_null=True, required=False
    )
    strokes = StrokeSerializer(many=True)


class TempoSerializer(serializers.Serializer):
    bpm = serializers.FloatField()
    low = serializers.FloatField()
    high = serializers.FloatField()
    steady = serializers.BooleanField()
    confidence = serializers.FloatField()
    alternatives = serializers.ListField(child=serializers.FloatField())


class SectionFactsSerializer(serializers.Serializer):
    """What stands in a section; see orchesis/meaning/form.py."""

    id = serializers.CharField()
    surface = serializers.CharField(allow_blank=True)
    level = serializers.FloatField(allow_null=True)
    fills = serializers.ListField(child=serializers.IntegerField())
    crashes = serializers.ListField(child=serializers.IntegerField())
    rests = serializers.ListField(child=serializers.IntegerField())
    twin = serializers.CharField(allow_null=True)
    unlike = serializers.ListField(child=serializers.IntegerField())
    never = serializers.ListField(child=serializers.CharField())
    odd = serializers.BooleanField()
    proposed = serializers.CharField()


class FormEventSerializer(serializers.Serializer):
    bar = serializers.IntegerField()
    kind = serializers.CharField()
    says = serializers.CharField()


class FormSerializer(serializers.Serializer):
    sections = SectionFactsSerializer(many=True)
    events = FormEventSerializer(many=True)
    confidence = serializers.ListField(
        child=serializers.FloatField(), help_text="Of the pulse, a value a bar."
    )
    disagree = serializers.ListField(
        child=serializers.IntegerField(), help_text="Confirmed bars whose strokes lie elsewhere."
    )
    states = serializers.ListField(
        child=serializers.ChoiceField(["heard", "review", "confirmed"]), help_text="A value a bar."
    )


class FillSerializer(serializers.Serializer):
    bar = serializers.IntegerField()
    start = serializers.FloatField()
    end = serializers.FloatField()


class HitSerializer(serializers.Serializer):
    time = serializers.FloatField()
    part = serializers.CharField()
    loudness = serializers.FloatField()
    confidence = serializers.FloatField()


class OfferedStrokeSerializer(serializers.Serializer):
    """What a change carries of a stroke to another bar."""

    id = serializers.CharField()
    part = serializers.ChoiceField(list(KIT))
    place = serializers.CharField()
    limb = serializers.ChoiceField(list(LIMBS))
    dynamic = serializers.ChoiceField(list(DYNAMICS))
    loudness = serializers.FloatField()
    ornament = serializers.ChoiceField(list(ORNAMENTS), allow_null=True)
    choked = serializers.BooleanField()
    doubt = serializers.ChoiceField(list(DOUBTS))
    reason = serializers.CharField(allow_blank=True)


class OfferedChangeSerializer(serializers.Serializer):
    was = OfferedStrokeSerializer(allow_null=True)
    now = OfferedStrokeSerializer(allow_null=True)


class OfferSerializer(serializers.Serializer):
    """An edit that would fit other bars too; see orchesis/meaning/alike.py."""

    bar = serializers.IntegerField()
    bars = serializers.ListField(child=serializers.IntegerField())
    changes = OfferedChangeSerializer(many=True)
    says = serializers.CharField()


class DifferenceSerializer(serializers.Serializer):
    kind = serializers.CharField()
    a = serializers.CharField(allow_null=True)
    b = serializers.CharField(allow_null=True)
    says = serializers.CharField(allow_blank=True)


class ComparisonSerializer(serializers.Serializer):
    """The bar asked for (b), what it is compared with (a), and what leads from a to b."""

    a = StrokeSerializer(many=True)
    b = StrokeSerializer(many=True)
    differences = DifferenceSerializer(many=True)
    says = serializers.ListField(child=serializers.CharField())


class DoubtSerializer(serializers.Serializer):
    key = serializers.CharField()
    kind = serializers.ChoiceField(["unsure", "marked", "missing", "echo", "hands"])
    part = serializers.ChoiceField(list(KIT))
    place = serializers.CharField()
    limb = serializers.ChoiceField(list(LIMBS))
    bars = serializers.ListField(child=serializers.IntegerField())
    strokes = serializers.ListField(child=serializers.CharField())
    weight = serializers.FloatField()
    says = serializers.CharField()


class ReviewSerializer(serializers.Serializer):
    version = serializers.IntegerField()
    minutes = serializers.FloatField()
    doubts = DoubtSerializer(many=True)


class CountTextSerializer(serializers.Serializer):
    version = serializers.IntegerField()
    text = serializers.CharField(allow_blank=True)


class TranscriptionSerializer(serializers.Serializer):
    version = serializers.IntegerField()
    take = serializers.IntegerField()
    duration = serializers.FloatField()
    score = ScoreSerializer()
    tempo = TempoSerializer()
    fills = FillSerializer(many=True)
    form = FormSerializer()
    hits = HitSerializer(many=True, help_text="What was heard, whatever became of it.")
    undoes = serializers.CharField(
        allow_blank=True,
        help_text="What the user's next undo takes back, in words; empty: nothing.",
    )
    redoes = serializers.CharField(allow_blank=True)


class StepRequest(BaseModel):
    """base: the version the page shows; key: its own name for what it sends, done once."""

    model_config = ConfigDict(extra="ignore", strict=True)
    base: Annotated[int, Field(ge=0, le=2**31)]
    key: Annotated[str, Field(max_length=40)] = ""


class EditRequest(StepRequest):
    """over: also where somebody else changed the same thing since ``base``."""

    over: bool = False
    edit: AnyEdit


class PatchSerializer(ScoreSerializer):
    """What an edit changed of a score: strokes by id (null: gone), and other keys whole."""

    def get_fields(self) -> dict[str, serializers.Field]:
        fields = super().get_fields()
        for name in ("title", "artist"):
            del fields[name]
        fields["strokes"] = serializers.DictField(child=StrokeSerializer(allow_null=True))
        for field in fields.values():
            field.required = False
        return fields


class EditResultSerializer(serializers.Serializer):
    version = serializers.IntegerField()
    patches = PatchSerializer(many=True, help_text="What leads from ``base`` to ``version``.")
    alike = OfferSerializer(allow_null=True, required=False)
    tempo = TempoSerializer()
    fills = FillSerializer(many=True)
    form = FormSerializer()
    undoes = serializers.CharField(
        allow_blank=True,
        help_text="What the user's next undo takes back, in words; empty: nothing.",
    )
    redoes = serializers.CharField(allow_blank=True)


class ChartSerializer(serializers.Serializer):
    version = serializers.IntegerField()
    decisions = serializers.ListField(
        child=serializers.CharField(), help_text="What was decided of single strokes, in words."
    )
    pages = serializers.ListField(child=serializers.CharField())
    bars = serializers.ListField(
        child=serializers.FloatField(), help_text="Seconds of each written bar, and of the end."
    )
    notation = serializers.CharField()
    notations = serializers.ListField(child=serializers.CharField())
