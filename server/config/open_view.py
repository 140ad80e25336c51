"""What anybody with an address may do."""

from __future__ import annotations

from rest_framework.permissions import AllowAny
from rest_framework.views import APIView

from config.rates import OpenRate


class OpenView(APIView):
    """Nobody is logged in there, and nothing is set."""

    authentication_classes = ()
    permission_classes = [AllowAny]
    throttle_classes = [OpenRate]
