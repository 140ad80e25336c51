"""What comes in and goes out by its types: checked against the model that describes it."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterable
from typing import Annotated, Any, TypeVar, get_type_hints

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, create_model, model_validator
from pydantic import ValidationError as PydanticError
from rest_framework.response import Response

from orchesis.score.edit import malformed


class Answer(BaseModel):
    """An answer, or a part of one: these fields, and no others."""

    model_config = ConfigDict(extra="forbid")


M = TypeVar("M", bound=Answer)
B = TypeVar("B", bound=BaseModel)


def read(model: type[B], data: Any, what: str = "edit") -> B:
    """What a page sent, by its types; told in one sentence where it is something else."""
    try:
        return model.model_validate(data)
    except PydanticError as problem:
        raise malformed(problem, what) from None


def answered(model: type[M], *, status: int = 200, **data: Any) -> Response:
    """The answer that a model describes. Raises pydantic's ValidationError, which is a fault of
    ours, where the data is anything else."""
    made = model.model_validate(data)
    return Response(made.model_dump(mode="json", exclude_unset=True), status=status)


def made_of(core: type, name: str, **more: Any) -> Any:
    """A model with the fields of one of the core's dataclasses, and more or other ones."""
    hints, own = get_type_hints(core), dataclasses.fields(core)
    fields = {f.name: hints[f.name] for f in own} | more
    usual = {f.name: f.default for f in own if f.default is not dataclasses.MISSING}

    def whole(data: Any) -> Any:
        """Data of earlier versions may lack what the core has a usual value for, as it reads it."""
        return {**usual, **data} if isinstance(data, dict) else data

    described: dict[str, Any] = {k: (v, ...) for k, v in fields.items()}
    return create_model(
        name,
        __base__=Answer,
        __doc__=core.__doc__,
        __validators__={"whole": model_validator(mode="before")(whole)},  # type: ignore[dict-item]
        **described,
    )


def partly(model: type[Answer], name: str, **more: Any) -> Any:
    """The same fields, each of which may be missing."""
    fields = {k: f.annotation for k, f in model.model_fields.items()} | more
    described: dict[str, Any] = {k: (v, None) for k, v in fields.items()}
    return create_model(name, __base__=Answer, **described)


def one_of(words: Iterable[str]) -> Any:
    """One of some words, as the page's types name them."""
    return Annotated[str, Field(json_schema_extra={"enum": list(words)})]


def chosen(known: Iterable[str]) -> Any:
    """One of some words in a request, checked."""
    words = list(known)

    def check(value: str) -> str:
        if value not in words:
            raise ValueError(f"there is no “{value}”; there are {', '.join(words)}")
        return value

    return Annotated[
        str, AfterValidator(check), Field(json_schema_extra={"enum": list[Any](words)})
    ]
