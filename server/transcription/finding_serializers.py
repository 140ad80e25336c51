"""Shapes of what the strokes mean; the figures are told in orchesis/score (groove, fill, feel)."""

from __future__ import annotations

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from transcription.models import KeptFill
from transcription.serializers import StrokeSerializer


def _ints() -> serializers.ListField:
    return serializers.ListField(child=serializers.IntegerField())


def _words() -> serializers.ListField:
    return serializers.ListField(child=serializers.CharField())


class OptionSerializer(serializers.Serializer):
    bar = serializers.IntegerField(help_text="Of the unit, from 1; 0: in any of its bars.")
    place = serializers.CharField()
    part = serializers.CharField()
    limb = serializers.CharField()
    dynamic = serializers.CharField()
    share = serializers.FloatField()
    bars = _ints()
    of = serializers.IntegerField()
    where = serializers.CharField(allow_blank=True)
    goes = serializers.CharField(allow_blank=True)


class PhraseSerializer(serializers.Serializer):
    bar = serializers.IntegerField()
    bars = _ints()
    share = serializers.FloatField()
    says = serializers.CharField(allow_blank=True)


class GrooveSerializer(serializers.Serializer):
    section = serializers.CharField()
    first_bar = serializers.IntegerField()
    bars = serializers.IntegerField()
    length = serializers.IntegerField()
    threshold = serializers.FloatField()
    kind = serializers.CharField()
    says = serializers.CharField()
    typical = serializers.IntegerField()
    fullest = serializers.IntegerField()
    thinned = serializers.FloatField()
    relation = serializers.CharField(allow_blank=True)
    to = serializers.IntegerField(allow_null=True)
    once = _words()
    fills = _ints()
    unexplained = _ints()
    difference = _words()
    never = _words()
    related = _words()
    figures = _words()
    core = StrokeSerializer(many=True)
    options = OptionSerializer(many=True)
    phrases = PhraseSerializer(many=True)
    feet = PhraseSerializer(many=True)


class GrooveBookSerializer(serializers.Serializer):
    version = serializers.IntegerField()
    threshold = serializers.FloatField()
    grooves = GrooveSerializer(many=True)


class TallyCountSerializer(serializers.Serializer):
    take = serializers.CharField()
    count = serializers.IntegerField()
    of = serializers.IntegerField()


class TallySerializer(serializers.Serializer):
    section = serializers.CharField(allow_blank=True)
    part = serializers.CharField()
    place = serializers.CharField()
    ghost = serializers.BooleanField()
    bars = _ints()
    here = serializers.IntegerField()
    of = serializers.IntegerField()
    says = serializers.CharField()
    there = TallyCountSerializer(many=True)


class EvidenceSerializer(serializers.Serializer):
    version = serializers.IntegerField()
    takes = _words()
    tallies = TallySerializer(many=True)


class PlaceRefSerializer(serializers.Serializer):
    bar = serializers.IntegerField()
    place = serializers.CharField()


class CellSerializer(serializers.Serializer):
    bar = serializers.IntegerField()
    place = serializers.CharField()
    strokes = serializers.IntegerField()
    steps = serializers.IntegerField()
    grid = serializers.CharField()
    beat_steps = serializers.IntegerField()
    by = serializers.CharField()
    figure = _words()
    crosses = serializers.BooleanField()
    turns = serializers.IntegerField()
    starts = PlaceRefSerializer(many=True)


class PathSerializer(serializers.Serializer):
    part = serializers.CharField()
    strokes = serializers.IntegerField()


class LikeSerializer(serializers.Serializer):
    fill = serializers.IntegerField()
    how = serializers.ChoiceField(["same", "near", "rhythm"])


class ToldFillSerializer(serializers.Serializer):
    bar = serializers.IntegerField()
    place = serializers.CharField()
    last_bar = serializers.IntegerField()
    end_place = serializers.CharField()
    start = serializers.FloatField()
    end = serializers.FloatField()
    strokes = _words()
    beats = serializers.FloatField()
    subdivisions = _words()
    cells = CellSerializer(many=True)
    path = PathSerializer(many=True)
    linear = serializers.BooleanField()
    accents = serializers.IntegerField()
    ornaments = _words()
    rudiments = _words()
    starts = serializers.CharField(allow_blank=True)
    resolves = serializers.CharField()
    difficulty = serializers.FloatField()
    like = LikeSerializer(many=True)


class FillListSerializer(serializers.Serializer):
    version = serializers.IntegerField()
    fills = ToldFillSerializer(many=True)


class KeptDocumentSerializer(serializers.Serializer):
    fill = ToldFillSerializer()
    strokes = StrokeSerializer(many=True)
    meters = _words()


class KeptFillSerializer(serializers.ModelSerializer):
    document = KeptDocumentSerializer(read_only=True)
    song = serializers.SerializerMethodField(help_text="None when it has left the shelf.")

    class Meta:
        model = KeptFill
        fields = ["id", "song", "title", "bar", "tempo", "note", "document", "created"]
        read_only_fields = ["title", "bar", "tempo", "created"]

    @extend_schema_field(serializers.IntegerField(allow_null=True))
    def get_song(self, kept: KeptFill) -> int | None:
        return kept.song_id if kept.song and kept.song.removed is None else None


class KeepRequestSerializer(serializers.Serializer):
    song = serializers.IntegerField()
    fill = serializers.IntegerField(help_text="Its number in the song's list, from 0.")
    note = serializers.CharField(allow_blank=True, required=False, default="", max_length=300)


class SwingSerializer(serializers.Serializer):
    level = serializers.ChoiceField(["eighth", "sixteenth"])
    ratio = serializers.FloatField()
    spread = serializers.FloatField()
    pairs = serializers.IntegerField()
    who = serializers.CharField()
    claimed = serializers.BooleanField()


class FeelPlaceSerializer(serializers.Serializer):
    place = serializers.CharField()
    ms = serializers.FloatField(help_text="Median lateness.")
    count = serializers.IntegerField()


class PlaceLevelSerializer(serializers.Serializer):
    place = serializers.CharField()
    db = serializers.FloatField(help_text="Median level against the time hand's own median.")
    count = serializers.IntegerField()


class PlacementSerializer(serializers.Serializer):
    voice = serializers.CharField()
    ms = serializers.FloatField()
    share = serializers.FloatField()
    spread = serializers.FloatField()
    off_by = serializers.FloatField()
    count = serializers.IntegerField()
    places = FeelPlaceSerializer(many=True)


class TogetherSerializer(serializers.Serializer):
    a = serializers.CharField()
    b = serializers.CharField()
    ms = serializers.FloatField()
    off_by = serializers.FloatField()
    count = serializers.IntegerField()


class LevelSerializer(serializers.Serializer):
    layer = serializers.CharField()
    db = serializers.FloatField()
    spread = serializers.FloatField()
    count = serializers.IntegerField()


class GapsSerializer(serializers.Serializer):
    ghost = serializers.FloatField(allow_null=True)
    accent = serializers.FloatField(allow_null=True)


class RushSerializer(serializers.Serializer):
    bar = serializers.IntegerField()
    percent = serializers.FloatField()


class PointSerializer(serializers.Serializer):
    id = serializers.CharField()
    voice = serializers.CharField()
    bar = serializers.IntegerField()
    place = serializers.CharField()
    ms = serializers.FloatField()
    db = serializers.FloatField()


class SectionFeelSerializer(serializers.Serializer):
    section = serializers.CharField(allow_blank=True)
    first_bar = serializers.IntegerField()
    bars = serializers.IntegerField()
    swing = SwingSerializer(many=True)
    placement = PlacementSerializer(many=True)
    together = TogetherSerializer(many=True)
    levels = LevelSerializer(many=True)
    gaps = GapsSerializer()
    hand = PlaceLevelSerializer(many=True)
    evenness = serializers.FloatField(allow_null=True)
    loose = serializers.DictField(child=serializers.FloatField())
    bpm = serializers.FloatField()
    drift = serializers.FloatField()
    rush = RushSerializer(many=True)
    says = _words()
    points = PointSerializer(many=True)


class FeelSerializer(serializers.Serializer):
    version = serializers.IntegerField()
    feels = SectionFeelSerializer(many=True, help_text="The whole song first, then its sections.")
    shifts = serializers.DictField(
        child=serializers.FloatField(),
        help_text="Seconds by which the song's feel moves each stroke.",
    )


class MatchSerializer(serializers.Serializer):
    song = serializers.IntegerField()
    title = serializers.CharField()
    bar = serializers.IntegerField()
    place = serializers.CharField()
    start = serializers.FloatField()
    how = serializers.ChoiceField(["same", "near", "moved", "faster", "slower"])
    by = serializers.CharField()
    likeness = serializers.FloatField()
    more = serializers.IntegerField()
    less = serializers.IntegerField()


class MatchesSerializer(serializers.Serializer):
    version = serializers.IntegerField()
    matches = MatchSerializer(many=True)


class DecisionSerializer(serializers.Serializer):
    stroke = serializers.CharField()
    bars = _ints()
    place = serializers.CharField()
    part = serializers.CharField()
    doubt = serializers.CharField()
    reason = serializers.CharField(allow_blank=True)
    who = serializers.CharField(allow_blank=True)
    when = serializers.CharField(allow_blank=True)
    says = serializers.CharField()


class DecisionsSerializer(serializers.Serializer):
    version = serializers.IntegerField()
    decisions = DecisionSerializer(many=True)
