"""The shelf: the songs that were asked for, a page at a time, and the recordings given to them."""

from __future__ import annotations

from collections import Counter
from typing import Any

import django_filters
from config.errors import Conflict
from django.db import models
from django.db.models import Exists, OuterRef, Q, QuerySet
from django.db.models.functions import Coalesce
from django.utils import timezone
from drf_spectacular.utils import extend_schema
from library import store
from library.access import must_be_allowed
from library.models import Song, Take
from library.quota import ending_of, room_for
from people.access import EDIT, OWN, groups_with
from rest_framework import mixins, viewsets
from rest_framework.decorators import action
from rest_framework.pagination import PageNumberPagination
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.serializers import BaseSerializer
from transcription.hearing import start_hearing
from transcription.models import Arrangement

from orchesis.errors import BadSound
from orchesis.hearing.sound import BIGGEST
from orchesis.score.untrusted import printable
from shelf.serializers import (
    SongSerializer,
    TagsSerializer,
    TakeSerializer,
    UploadSerializer,
)


class ShelfPages(PageNumberPagination):
    """Fifty songs a page; a page of any size up to 300 on asking."""

    page_size = 50
    page_size_query_param = "size"
    max_page_size = 300

    def paginate_queryset(self, queryset: Any, request: Request, view: Any = None) -> Any:
        """The songs of a page: thousands are sorted by their numbers alone, fifty are fetched."""
        page: Any = super().paginate_queryset(queryset.values_list("pk", flat=True), request, view)
        pks: list[int] = page or []
        song_by_pk = {song.pk: song for song in queryset.order_by().filter(pk__in=list(pks))}
        return [song_by_pk[pk] for pk in pks if pk in song_by_pk]


def _recorded() -> QuerySet[Arrangement]:
    """The recorded part of the song that a query asks about."""
    return Arrangement.objects.filter(song=OuterRef("pk"), name=Arrangement.RECORDED)


class SongFilter(django_filters.FilterSet):
    """search: words in title, artist or who asked; group: still asked for (no part yet), on the
    desk, or in the bin; tag: that a song bears; band: a group that it is shared with."""

    search = django_filters.CharFilter(method="having")
    group = django_filters.ChoiceFilter(
        choices=[("asked", "Asked for"), ("desk", "On the desk"), ("bin", "In the bin")],
        method="being",
    )
    tag = django_filters.CharFilter(method="tagged")
    band = django_filters.NumberFilter(field_name="groups")
    order = django_filters.OrderingFilter(
        fields=[
            ("title", "title"),
            ("asked_by", "asked_by"),
            ("due_or_never", "due"),
            ("tempo", "tempo"),
            ("votes", "votes"),
        ]
    )

    class Meta:
        model = Song
        fields: list[str] = []

    def filter_queryset(self, queryset: QuerySet[Song]) -> QuerySet[Song]:
        never = models.Value("9999-12-31", models.DateField())
        songs = queryset.annotate(due_or_never=Coalesce("due", never))
        if any("tempo" in order for order in self.form.cleaned_data.get("order") or ()):
            # Only then: on a shelf of thousands it costs more than all the rest.
            songs = songs.annotate(tempo=models.Subquery(_recorded().values("tempo")[:1]))
        return super().filter_queryset(songs.order_by("due_or_never", "created"))

    def having(self, songs: QuerySet[Song], _name: str, words: str) -> QuerySet[Song]:
        for word in words.split()[:8]:
            songs = songs.filter(
                Q(title__icontains=word) | Q(artist__icontains=word) | Q(asked_by__icontains=word)
            )
        return songs

    def being(self, songs: QuerySet[Song], _name: str, group: str) -> QuerySet[Song]:
        # Which songs are in the bin, the view has settled already.
        if group == "bin":
            return songs
        return songs.filter(Exists(_recorded()) if group == "desk" else ~Exists(_recorded()))

    def tagged(self, songs: QuerySet[Song], _name: str, tag: str) -> QuerySet[Song]:
        return songs.filter(tags__contains=[tag[:40]])


class SongViewSet(
    mixins.ListModelMixin,
    mixins.CreateModelMixin,
    mixins.RetrieveModelMixin,
    mixins.UpdateModelMixin,
    mixins.DestroyModelMixin,
    viewsets.GenericViewSet,
):
    """The shelf. A removed song can be brought back."""

    serializer_class = SongSerializer
    pagination_class = ShelfPages
    filterset_class = SongFilter
    http_method_names = ["get", "post", "patch", "delete"]

    def get_queryset(self) -> QuerySet[Song]:
        in_bin = self.action in ("restore", "erase") or (
            self.action == "list" and self.request.query_params.get("group") == "bin"
        )
        songs = Song.objects.visible_to(self.request.user, removed=in_bin)
        # The shelf needs no score: what it shows of one is kept beside it.
        return songs.select_related("owner").prefetch_related(
            "takes", "jobs", "arrangements", "groups"
        )

    def get_serializer_context(self) -> dict[str, Any]:
        groups = groups_with(self.request.user, EDIT) if self.request.user.is_authenticated else ()
        return {
            **super().get_serializer_context(),
            "edited": {row["group"] for row in groups},
        }

    def perform_create(self, serializer: BaseSerializer[Song]) -> None:
        serializer.save(owner=self.request.user)

    def perform_update(self, serializer: BaseSerializer[Song]) -> None:
        song = serializer.instance
        assert song is not None
        must_be_allowed(self.request, song, OWN if "groups" in self.request.data else EDIT)
        serializer.save()

    def perform_destroy(self, song: Song) -> None:
        must_be_allowed(self.request, song, OWN)
        song.removed = timezone.now()
        song.save(update_fields=["removed"])

    @extend_schema(request=None, responses=SongSerializer)
    @action(detail=True, methods=["post"])
    def restore(self, request: Request, pk: str) -> Response:
        song = self.get_object()
        song.removed = None
        song.save(update_fields=["removed"])
        return Response(self.get_serializer(song).data)

    @extend_schema(request=None, responses={204: None})
    @action(detail=True, methods=["post"])
    def erase(self, request: Request, pk: str) -> Response:
        """A song of the bin is gone for good, with its recordings."""
        self.get_object().delete()
        return Response(status=204)

    @extend_schema(responses=TagsSerializer)
    @action(detail=False, methods=["get"], pagination_class=None, filter_backends=[])
    def tags(self, request: Request) -> Response:
        """The tags of all songs that one sees, the most used first."""
        rows = Song.objects.visible_to(request.user).exclude(tags=[]).values_list("tags", flat=True)
        counted = Counter(tag for tags in rows for tag in tags)
        return Response({"tags": [tag for tag, _ in counted.most_common(60)]})

    @extend_schema(
        request={"multipart/form-data": UploadSerializer}, responses={201: TakeSerializer}
    )
    @action(detail=True, methods=["post"], parser_classes=[MultiPartParser])
    def takes(self, request: Request, pk: str) -> Response:
        """Give the song its recording; hearing begins at once."""
        song = self.get_object()
        must_be_allowed(request, song)
        given = UploadSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        file = given.validated_data["file"]
        if file.size == 0:
            raise BadSound(f"“{file.name}” is empty; choose the recording again.")
        if file.size > BIGGEST:
            raise BadSound(
                f"“{file.name}” has {file.size / 2**20:.0f} MB; the most we take is 200 MB."
            )
        digest = store.digest_of(file)
        twin = (
            Take.objects.filter(song__in=Song.objects.visible_to(song.owner), digest=digest)
            .select_related("song")
            .first()
        )
        if twin is not None:
            raise Conflict(f"This recording is on the shelf already, as “{twin.song.title}”.")
        with room_for(song.owner, file.size), store.all_or_nothing():
            stored = store.keep(file, ending_of(file.name), digest)
            take = Take.objects.create(
                song=song,
                name=printable(file.name),
                digest=digest,
                original=stored.name,
                rights=given.validated_data["rights"],
            )
            start_hearing(take, request.user)
        return Response(TakeSerializer(Take.objects.get(pk=take.pk)).data, status=201)
