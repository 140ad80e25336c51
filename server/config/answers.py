"""What comes in and goes out by its types: checked against the model that describes it."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Any, TypeVar

from pydantic import AfterValidator, BaseModel, Field
from pydantic import ValidationError as PydanticError
from rest_framework.response import Response

from orchesis.document import Document as Answer
from orchesis.document import model_from, one_of, partial_of
from orchesis.score.edit import malformed

__all__ = ["Answer", "answered", "chosen", "model_from", "one_of", "partial_of", "read"]


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
    answer = model.model_validate(data)
    return Response(answer.model_dump(mode="json", exclude_unset=True), status=status)


def chosen(allowed: Iterable[str]) -> Any:
    """One of some words in a request, checked."""
    words = list(allowed)

    def check(value: str) -> str:
        if value not in words:
            raise ValueError(f"there is no “{value}”; there are {', '.join(words)}")
        return value

    return Annotated[
        str, AfterValidator(check), Field(json_schema_extra={"enum": list[Any](words)})
    ]
