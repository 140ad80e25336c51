"""Sessions that say whose they are, so that a person sees where they are logged in and can end
the others: Django's own in the database, with two columns more."""

from __future__ import annotations

from typing import Any, cast

from django.contrib.sessions.backends.db import SessionStore as DatabaseStore

from people.models import LogIn

#: What the page said it is at log-in, kept with the session.
WHAT = "what"


class SessionStore(DatabaseStore):
    @classmethod
    def get_model_class(cls) -> type[LogIn]:
        return LogIn

    def create_model_instance(self, data: dict[str, Any]) -> LogIn:
        log_in = cast(LogIn, super().create_model_instance(data))
        number = data.get("_auth_user_id")
        log_in.user_id = int(number) if number else None
        log_in.what = str(data.get(WHAT, ""))[:200]
        return log_in
