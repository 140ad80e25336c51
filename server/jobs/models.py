"""Long work as rows: what is to be done with what, by whom it is held, how far it is."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db import models
from library.models import Song
from people.access import SEE


class JobQuerySet(models.QuerySet["Job"]):
    def visible_to(self, user: Any, *, may: str = SEE) -> JobQuerySet:
        """Work that somebody asked for themselves, or for a song with which they may do that."""
        songs = Song.objects.visible_to(user, may=may)
        return self.filter(models.Q(owner=user.pk) | models.Q(song__in=songs))


class Job(models.Model):
    """One piece of long work, for a song or for a whole account. A worker holds
    it by a lease that its heartbeat renews.

    kind: one of ``jobs.kinds.KINDS``; subject: the id of what it works on, as the kind says.
    attempt: how often it was claimed, which also tells an old holder from the present one;
    broken: how many holders died over it. owner: whose turn it takes; started: when it was last
    claimed.
    """

    QUEUED, RUNNING, DONE, REFUSED, CANCELLED = "queued", "running", "done", "refused", "cancelled"
    STATES = [(s, s) for s in (QUEUED, RUNNING, DONE, REFUSED, CANCELLED)]
    OPEN = (QUEUED, RUNNING)

    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="jobs", null=True
    )
    song = models.ForeignKey(Song, on_delete=models.CASCADE, related_name="jobs", null=True)
    kind = models.CharField(max_length=20)
    subject = models.BigIntegerField()
    state = models.CharField(max_length=10, choices=STATES, default=QUEUED, db_index=True)
    step = models.CharField(max_length=20, blank=True)
    share = models.FloatField(default=0)
    message = models.TextField(blank=True)
    notes = models.JSONField(default=list)
    cancel_asked = models.BooleanField(default=False)
    attempt = models.IntegerField(default=0)
    broken = models.IntegerField(default=0)
    lease_until = models.DateTimeField(null=True)
    created = models.DateTimeField(auto_now_add=True)
    started = models.DateTimeField(null=True)
    finished = models.DateTimeField(null=True)

    objects = JobQuerySet.as_manager()

    class Meta:
        ordering = ["id"]
        indexes = [
            models.Index(fields=["kind", "subject"]),
            models.Index(fields=["owner", "started"], name="jobs_by_turn"),
        ]

    def __str__(self) -> str:
        return f"{self.kind} {self.subject}"

    @property
    def is_open(self) -> bool:
        return self.state in self.OPEN
