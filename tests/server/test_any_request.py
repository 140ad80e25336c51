"""Whatever the description of the API allows, and what it does not: an answer, never a failure."""

from __future__ import annotations

import json
import re
from urllib.parse import quote, urlencode

import pytest
import schemathesis
from config.rates import Limit
from drf_spectacular.generators import SchemaGenerator
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from transcription.models import Arrangement

SCHEMA = SchemaGenerator().get_schema(request=None, public=True)
API = schemathesis.openapi.from_dict(json.loads(json.dumps(SCHEMA)))
#: Calls that end what the others need.
ENDS = {"/api/account/end", "/api/account/password"}
CALLS = [op.ok() for op in API.get_all_operations() if op.ok().path not in ENDS]


@pytest.mark.parametrize("call", CALLS, ids=lambda c: f"{c.method} {c.path}")
def test_no_request_makes_the_server_fail(call, client, request, monkeypatch):
    monkeypatch.setattr(Limit, "use", lambda *_: True)
    heard = request.getfixturevalue("heard") if "/songs/{id}" in call.path else None
    part = Arrangement.objects.first()

    @settings(max_examples=6, deadline=None, database=None, suppress_health_check=list(HealthCheck))
    @given(case=call.as_strategy(), own=st.booleans())
    def tried(case, own):
        values = dict(case.path_parameters or {})
        if heard is not None and own:
            values |= {"id": heard["id"]} | (
                {"number": part.pk} if "number" in values and part else {}
            )
        path = re.sub(r"\{(\w+)\}", lambda m: quote(str(values[m[1]]), safe=""), case.path)
        query = urlencode({k: str(v) for k, v in (case.query or {}).items()})
        body = case.body
        is_json = isinstance(body, dict | list | str | int | float | bool) or body is None
        sent = json.dumps(body).encode("utf-8", "surrogatepass") if is_json else b"x"
        client.raise_request_exception = False
        answer = client.generic(
            case.method, f"{path}?{query}", sent, content_type="application/json"
        )
        assert answer.status_code < 500, (path, query, sent[:300], answer.content[:300])
        if answer.status_code >= 400 and answer.headers.get("Content-Type", "").startswith(
            "application/json"
        ):
            assert answer.json()["detail"]

    tried()
