"""Rows of the database as plain data, and back: what packages and backups are made of."""

from __future__ import annotations

from datetime import UTC, date, datetime
from typing import Any, TypeVar

from django.core.exceptions import ValidationError
from django.db.models import Field, Model

from orchesis.errors import BadScore

M = TypeVar("M", bound=Model)


def told(row: Model, *fields: str) -> dict[str, Any]:
    """Some fields of a row as JSON takes them."""
    return {name: _plain(getattr(row, name)) for name in fields}


def _plain(value: Any) -> Any:
    return value.isoformat() if isinstance(value, date | datetime) else value


def values(model: type[Model], data: dict[str, Any], *fields: str) -> dict[str, Any]:
    """What fields of a row are to be, out of told data. Raises BadScore where one can't be."""
    columns: dict[str, Any] = {}
    for name in fields:
        field = model._meta.get_field(name)
        assert isinstance(field, Field)
        value = data.get(name)
        try:
            columns[name] = field.to_python(value)
            if isinstance(columns[name], datetime):
                columns[name].astimezone(UTC)  # some moments have none there
        except (ValidationError, OverflowError):
            raise BadScore(f"“{str(value)[:40]}” can't be the {name} of this package.") from None
        if columns[name] is None and not field.null:
            del columns[name]  # as usual
    return columns
