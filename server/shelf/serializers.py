"""The shelf's answers: songs, their takes, and how far each is."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema_field
from jobs.models import Job
from jobs.serializers import JobSerializer
from library.models import Song, Take
from people.access import EDIT, OWN, SEE
from people.models import Group
from rest_framework import serializers
from transcription.hearing import HEARING
from transcription.models import Arrangement


class TakeSerializer(serializers.ModelSerializer):
    job = serializers.SerializerMethodField()
    sounds = serializers.SerializerMethodField(help_text="Whether there is a recording to play.")
    anchors = serializers.ListField(
        child=serializers.ListField(child=serializers.FloatField()),
        read_only=True,
        help_text="Pairs of seconds: in the song's first take, and in this one.",
    )

    class Meta:
        model = Take
        fields = [
            "id",
            "name",
            "kind",
            "is_video",
            "anchors",
            "likeness",
            "duration",
            "created",
            "job",
            "rights",
            "sounds",
        ]
        read_only_fields = ["name", "kind", "is_video", "likeness", "duration", "created"]
        extra_kwargs = {"rights": {"help_text": "By what right the recording is here."}}

    def get_sounds(self, take: Take) -> bool:
        return bool(take.sound)

    @extend_schema_field(JobSerializer(allow_null=True))
    def get_job(self, take: Take) -> dict[str, Any] | None:
        job = newest_job(take)
        return JobSerializer(job).data if job else None


def newest_job(take: Take) -> Job | None:
    """The newest hearing of a take, out of what was fetched with its song."""
    jobs = [j for j in take.song.jobs.all() if (j.kind, j.subject) == (HEARING, take.pk)]
    return max(jobs, key=lambda job: job.pk, default=None)


def recorded(song: Song) -> Arrangement | None:
    """What is played in a song, out of what was fetched with it; None before it was heard."""
    return next((a for a in song.arrangements.all() if a.name == Arrangement.RECORDED), None)


class _Recorded(serializers.IntegerField):
    """A figure that is kept with the song as it was recorded; null before it was heard."""

    def __init__(self, **more: Any) -> None:
        super().__init__(read_only=True, allow_null=True, **more)

    def get_attribute(self, song: Song) -> int | None:
        arrangement = recorded(song)
        return None if arrangement is None else getattr(arrangement, str(self.field_name))


class SharedWithField(serializers.PrimaryKeyRelatedField):
    """Groups of the asker's; others are none that they could name."""

    def get_queryset(self) -> QuerySet[Group]:
        return Group.objects.visible_to(self.context["request"].user)


class SongSerializer(serializers.ModelSerializer):
    takes = TakeSerializer(many=True, read_only=True)
    stage = serializers.SerializerMethodField()
    bars = _Recorded()
    confirmed = _Recorded(help_text="Bars that are confirmed.")
    wanted = _Recorded(help_text="Bars of the passages that tell an outline; null: not known yet.")
    wanted_confirmed = _Recorded(help_text="Those of them that are confirmed.")
    doubts = _Recorded(help_text="Questions that the review still asks.")
    tempo = serializers.SerializerMethodField()
    trouble = serializers.SerializerMethodField()
    may = serializers.SerializerMethodField()
    of = serializers.CharField(source="owner.username", read_only=True, help_text="Whose it is.")
    tags = serializers.ListField(
        child=serializers.CharField(max_length=40, trim_whitespace=True),
        max_length=12,
        required=False,
    )
    groups = SharedWithField(
        many=True,
        queryset=Group.objects.none(),
        required=False,
        help_text="Bands and classes that it is shared with.",
    )

    class Meta:
        model = Song
        fields = [
            "id",
            "title",
            "artist",
            "asked_by",
            "due",
            "depth",
            "created",
            "takes",
            "stage",
            "bars",
            "confirmed",
            "wanted",
            "wanted_confirmed",
            "doubts",
            "tempo",
            "trouble",
            "may",
            "of",
            "tags",
            "groups",
            "votes",
            "removed",
        ]
        read_only_fields = ["votes", "removed"]
        extra_kwargs = {
            "title": {"error_messages": {"blank": "Give the song a title."}},
            "due": {"error_messages": {"invalid": "Write the due date like 2026-12-24."}},
        }

    @extend_schema_field(
        serializers.ChoiceField(["asked", "hearing", "refused", "heard", "corrected", "confirmed"])
    )
    def get_stage(self, song: Song) -> str:
        """How far the song is: asked, hearing, refused, heard, corrected, confirmed."""
        arrangement = recorded(song)
        if arrangement is not None:
            if arrangement.is_done:
                return "confirmed"
            return "corrected" if arrangement.version > 0 else "heard"
        takes = song.takes.all()
        job = newest_job(takes[len(takes) - 1]) if takes else None
        if job is None:
            return "asked"
        return "hearing" if job.is_open else "refused"

    @extend_schema_field(serializers.ChoiceField([SEE, EDIT, OWN]))
    def get_may(self, song: Song) -> str:
        """What the asker may do with it: see and play it, edit it, or decide over it."""
        if song.owner_id == self.context["request"].user.pk:
            return OWN
        edited = self.context["edited"]
        return EDIT if any(g.pk in edited for g in song.groups.all()) else SEE

    @extend_schema_field(serializers.FloatField(allow_null=True))
    def get_tempo(self, song: Song) -> float | None:
        arrangement = recorded(song)
        return arrangement.tempo if arrangement and not arrangement.is_broken else None

    @extend_schema_field(serializers.CharField(allow_blank=True))
    def get_trouble(self, song: Song) -> str:
        """Why the song can't be opened, and what to do; empty where nothing is wrong."""
        arrangement = recorded(song)
        if arrangement is None or not arrangement.is_broken:
            return ""
        return "This song can't be read any more. Undo the last change, or run check_songs."


class TagsSerializer(serializers.Serializer):
    tags = serializers.ListField(child=serializers.CharField())


class UploadSerializer(serializers.Serializer):
    rights = serializers.ChoiceField(Take.RIGHTS, default=Take.PRIVATE)
    file = serializers.FileField(
        allow_empty_file=True, max_length=255, error_messages={"required": "Choose a recording."}
    )
