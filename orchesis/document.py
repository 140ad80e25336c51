"""Models of JSON documents, made from the core's dataclasses: what is told, and what is believed
of a document from outside."""

from __future__ import annotations

import dataclasses
import math
from collections.abc import Iterable, Sequence
from typing import Annotated, Any, get_type_hints

from pydantic import BaseModel, ConfigDict, Field, ValidationError, create_model, model_validator
from pydantic_core import PydanticSerializationError

from orchesis.errors import BadScore


class Document(BaseModel):
    """A document, or a part of one: these fields, and no others."""

    model_config = ConfigDict(extra="forbid")


def must_be(model: type[BaseModel], data: Any, what: str) -> None:
    """Raises BadScore, with the place of the first wrong value, where data is none such: “3” is no
    number, and 3.5 no whole one."""
    try:
        read = model.model_validate(data).model_dump(mode="json", exclude_unset=True)
    except ValidationError as problem:
        error = problem.errors(include_url=False, include_input=False)[0]
        message = error["msg"][0].lower() + error["msg"][1:]
        raise BadScore(f"{what}, {_path(error['loc'])}: {message[:120]}.") from None
    except PydanticSerializationError as problem:
        raise BadScore(f"{what} holds what JSON can't: {str(problem)[:80]}.") from None
    if (place := _odd(data, read)) is not None:
        raise BadScore(f"{what}, {_path(place)}: this value is of another kind than it should be.")


def _path(place: Sequence[Any]) -> str:
    return ".".join(str(p) for p in place)[:80] or "all of it"


def _odd(data: Any, read: Any, place: tuple[Any, ...] = ()) -> tuple[Any, ...] | None:
    """The first place at which data is not what was read of it; None where there is none."""
    if isinstance(data, dict) and isinstance(read, dict):
        pairs = ((k, v, read.get(k, v)) for k, v in data.items())
    elif isinstance(data, list) and isinstance(read, list):
        pairs = ((k, v, w) for k, (v, w) in enumerate(zip(data, read, strict=True)))
    else:
        same = data == read and isinstance(data, bool) == isinstance(read, bool)
        return None if same and not _no_file_takes(data) else place
    return next(filter(None, (_odd(v, w, (*place, k)) for k, v, w in pairs)), None)


def _plain(value: Any) -> Any:
    return list(value) if isinstance(value, tuple) else value


def model_from(core: type, name: str, **more: Any) -> Any:
    """A model with the fields of one of the core's dataclasses, and more or other ones."""
    hints, fields_of_core = get_type_hints(core), dataclasses.fields(core)
    fields = {f.name: hints[f.name] for f in fields_of_core} | more
    usual = {
        f.name: _plain(f.default) for f in fields_of_core if f.default is not dataclasses.MISSING
    }

    def whole(data: Any) -> Any:
        """Data of earlier versions may lack what the core has a usual value for, as it reads it."""
        return {**usual, **data} if isinstance(data, dict) else data

    described: dict[str, Any] = {k: (v, ...) for k, v in fields.items()}
    return create_model(
        name,
        __base__=Document,
        __doc__=core.__doc__,
        __validators__={"whole": model_validator(mode="before")(whole)},  # type: ignore[dict-item]
        **described,
    )


def partial_of(model: type[Document], name: str, **more: Any) -> Any:
    """The same fields, each of which may be missing."""
    fields = {k: f.annotation for k, f in model.model_fields.items()} | more
    described: dict[str, Any] = {k: (v, None) for k, v in fields.items()}
    return create_model(name, __base__=Document, **described)


def one_of(words: Iterable[str]) -> Any:
    """One of some words, as the page's types name them."""
    return Annotated[str, Field(json_schema_extra={"enum": list(words)})]


def _no_file_takes(data: Any) -> bool:
    """Whether a value has no JSON: an infinite number, or a text with a lone surrogate."""
    if isinstance(data, float):
        return not math.isfinite(data)
    if not isinstance(data, str) or data.isascii():
        return False
    return any("\ud800" <= letter <= "\udfff" for letter in data)
