"""Answers of text go out compressed; sound, pictures and archives are compressed already."""

from django.http import HttpRequest
from django.http.response import HttpResponseBase
from django.middleware.gzip import GZipMiddleware

_TEXT = ("application/json", "image/svg+xml", "text/")


class CompressText(GZipMiddleware):
    """Django's own compression, for what gains by it."""

    def process_response(
        self, request: HttpRequest, response: HttpResponseBase
    ) -> HttpResponseBase:
        if not response.get("Content-Type", "").startswith(_TEXT):
            return response
        return super().process_response(request, response)
