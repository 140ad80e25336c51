"""The one family of errors of the core.

Each message is one sentence for the user: what is wrong (with the value), where,
and what to do.
"""


class OrchesisError(Exception):
    """Anything the user can be told in one clear sentence."""


class BadSound(OrchesisError):
    """A recording that cannot be heard (not audio, empty, too long, silent ...)."""


class BadScore(OrchesisError):
    """A score, count text or analysis file that cannot be read."""


class BadEdit(OrchesisError):
    """An edit that does not fit the score it is applied to."""


class MalformedEdit(BadEdit):
    """What was sent is no edit at all: a field is missing, or of the wrong kind."""


class Cancelled(OrchesisError):
    """The user asked for the work to stop."""
