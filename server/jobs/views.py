"""Long work, cancelled or asked for again."""

from __future__ import annotations

from collections.abc import Callable

from drf_spectacular.utils import extend_schema
from library.access import must_be_allowed
from rest_framework.generics import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from jobs import queue
from jobs.models import Job
from jobs.serializers import JobSerializer


class _JobView(APIView):
    act: Callable[[Job], Job]

    @extend_schema(request=None, responses=JobSerializer)
    def post(self, request: Request, pk: int) -> Response:
        job = get_object_or_404(Job.objects.visible_to(request.user), pk=pk)
        if job.song is not None and job.owner_id != request.user.pk:
            must_be_allowed(request, job.song)
        return Response(JobSerializer(self.act(job)).data)


class CancelView(_JobView):
    """Cancels a job."""

    act = staticmethod(queue.cancel)


class RetryView(_JobView):
    """Does again what was cancelled or refused."""

    act = staticmethod(queue.again)
