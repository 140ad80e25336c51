from __future__ import annotations

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers
from transcription.serializers import JobSerializer

from library.models import Song, Take
from orchesis.errors import BadScore
from orchesis.score import Score


class SessionSerializer(serializers.Serializer):
    name = serializers.CharField(read_only=True, allow_null=True)


class CredentialsSerializer(serializers.Serializer):
    name = serializers.CharField(max_length=150)
    password = serializers.CharField(max_length=200)


class TakeSerializer(serializers.ModelSerializer):
    job = serializers.SerializerMethodField()
    anchors = serializers.ListField(
        child=serializers.ListField(child=serializers.FloatField()),
        read_only=True,
        help_text="Pairs of seconds: in the song's first take, and in this one.",
    )

    class Meta:
        model = Take
        fields = [
            "id", "name", "kind", "is_video", "anchors", "likeness", "duration", "created", "job",
        ]  # fmt: skip

    @extend_schema_field(JobSerializer(allow_null=True))
    def get_job(self, take: Take) -> dict | None:
        job = take.jobs.order_by("-id").first()
        return JobSerializer(job).data if job else None


class SongSerializer(serializers.ModelSerializer):
    takes = TakeSerializer(many=True, read_only=True)
    stage = serializers.SerializerMethodField()
    bars = serializers.SerializerMethodField()
    tempo = serializers.SerializerMethodField()
    trouble = serializers.SerializerMethodField()

    class Meta:
        model = Song
        fields = [
            "id", "title", "artist", "asked_by", "due", "depth", "created", "takes", "stage",
            "bars", "tempo", "trouble",
        ]  # fmt: skip
        extra_kwargs = {
            "title": {"error_messages": {"blank": "Give the song a title."}},
            "due": {"error_messages": {"invalid": "Write the due date like 2026-12-24."}},
        }

    @extend_schema_field(
        serializers.ChoiceField(["asked", "hearing", "refused", "heard", "corrected", "confirmed"])
    )
    def get_stage(self, song: Song) -> str:
        """How far the song is: asked, hearing, refused, heard, corrected, confirmed."""
        found = getattr(song, "transcription", None)
        if found is not None:
            score = _score(song)
            if score is not None and len(score.confirmed) == score.bar_count:
                return "confirmed"
            return "corrected" if found.version > 0 else "heard"
        take = song.takes.last()
        job = take.jobs.order_by("-id").first() if take else None
        if job is None:
            return "asked"
        return "hearing" if job.is_open else "refused"

    @extend_schema_field(serializers.IntegerField(allow_null=True))
    def get_bars(self, song: Song) -> int | None:
        score = _score(song)
        return score.bar_count if score else None

    @extend_schema_field(serializers.FloatField(allow_null=True))
    def get_tempo(self, song: Song) -> float | None:
        score = _score(song)
        return round(score.pulse.tempo()[0], 1) if score else None

    @extend_schema_field(serializers.CharField(allow_blank=True))
    def get_trouble(self, song: Song) -> str:
        """Why the song can't be opened, and what to do; empty where nothing is wrong."""
        found = getattr(song, "transcription", None)
        if found is None or _score(song) is not None:
            return ""
        return "This song can't be read any more. Undo the last change, or run check_songs."


def _score(song: Song) -> Score | None:
    """The song's score; None where it was not heard yet, or can't be read any more: one
    broken row never fails a list."""
    found = getattr(song, "transcription", None)
    try:
        return found.score if found else None
    except BadScore:
        return None


class UploadSerializer(serializers.Serializer):
    file = serializers.FileField(
        allow_empty_file=True, max_length=255, error_messages={"required": "Choose a recording."}
    )
