"""Long work as rows: what is to be done with what, by whom it is held, how far it is."""

from __future__ import annotations

from django.db import models
from library.models import OfSongQuerySet, Song


class Job(models.Model):
    """One piece of long work for a song. A worker holds it by a lease that its heartbeat renews.

    kind: one of ``jobs.kinds.KINDS``; subject: the id of what it works on, as the kind says.
    attempt: how often it was claimed, which also tells an old holder from the present one;
    broken: how many holders died over it.
    """

    QUEUED, RUNNING, DONE, REFUSED, CANCELLED = "queued", "running", "done", "refused", "cancelled"
    STATES = [(s, s) for s in (QUEUED, RUNNING, DONE, REFUSED, CANCELLED)]
    OPEN = (QUEUED, RUNNING)

    song = models.ForeignKey(Song, on_delete=models.CASCADE, related_name="jobs")
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
    finished = models.DateTimeField(null=True)

    objects = OfSongQuerySet.as_manager()

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["kind", "subject"])]

    def __str__(self) -> str:
        return f"{self.kind} {self.subject}"

    @property
    def is_open(self) -> bool:
        return self.state in self.OPEN
