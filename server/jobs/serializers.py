from __future__ import annotations

from rest_framework import serializers

from jobs.kinds import step_name
from jobs.models import Job


class JobSerializer(serializers.ModelSerializer):
    step_name = serializers.SerializerMethodField()

    class Meta:
        model = Job
        fields = [
            "id",
            "kind",
            "state",
            "step",
            "step_name",
            "share",
            "message",
            "notes",
            "attempt",
        ]

    def get_step_name(self, job: Job) -> str:
        return step_name(job.kind, job.step)
