"""From where a request comes: one rule for rates, for locked names and for places."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest


def of(request: HttpRequest) -> str:
    """The address of who asks. Of what proxies say only that of ours is believed."""
    return seen(request.META.get("REMOTE_ADDR", ""), request.META.get("HTTP_X_FORWARDED_FOR", ""))


def seen(peer: str, forwarded: str) -> str:
    """peer: the other end of the connection. forwarded: X-Forwarded-For, as it came."""
    proxies = settings.PROXIES
    if not (proxies and forwarded):
        return peer
    addresses = [address.strip() for address in forwarded.split(",")]
    return addresses[-min(proxies, len(addresses))]
