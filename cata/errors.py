"""The one tree of errors that Cata can explain to a person.

CataError
├── Refused        an input or a measurement that Cata declines, with a plain reason
│   └── BadAudio   a file that cannot be used as a recording
├── NotFound       a thing that is not (or no longer) there
├── Invalid        a value that breaks a rule of the job
├── Conflict       an action that the present state does not allow
└── Unfinished     background work that came to no result
    ├── Died       the worker that did it died
    └── TooSlow    it took longer than anything of its kind may

Each carries a stable short ``code`` and the ``numbers`` of its sentence: scripts, decisions and tests read those, never
the words. HTTP status codes are chosen in ``cata.api`` only; exit codes in ``cata.cli`` only.
"""

from __future__ import annotations

from typing import Any, Self

from cata.said import Number, Said


class CataError(Exception):
    """Base of every error with a message meant for a person."""

    code = "error"

    def __init__(self, message: str, code: str = "", **numbers: Number) -> None:
        super().__init__(message)
        if code:
            self.code = code
        self.numbers: dict[str, Number] = numbers

    @classmethod
    def of(cls, why: Said) -> Self:
        """An error of something said."""
        return cls(why.words, why.code, **why.numbers)

    @property
    def said(self) -> Said:
        """Its code, words and numbers."""
        return Said(self.code, self.message, self.numbers)

    @property
    def message(self) -> str:
        """The plain sentence to show."""
        return str(self)

    def __reduce__(self) -> tuple[Any, ...]:
        # Errors cross from worker to server; what their constructors want is not what they keep.
        return _again, (type(self), self.args, dict(self.__dict__))


def _again(kind: type[CataError], args: tuple[Any, ...], state: dict[str, Any]) -> CataError:
    error = kind.__new__(kind)
    error.args = args
    error.__dict__.update(state)
    return error


class Refused(CataError):
    """An input or a measurement is declined; the message says why."""

    code = "refused"


class BadAudio(Refused):
    """A file cannot be used as a recording."""

    def __init__(self, code: str, message: str, **numbers: Number) -> None:
        super().__init__(message, code, **numbers)


class NotFound(CataError):
    """A thing that was asked for is not there."""

    code = "not_found"

    def __init__(self, noun: str, ident: object) -> None:
        super().__init__(f"There is no {noun} {ident}. It may have been removed in another window.")
        self.noun = noun


class Invalid(CataError):
    """A value breaks a rule; the message names the parameter, the rule and the value received."""

    code = "invalid"


class Conflict(CataError):
    """The present state does not allow the action."""

    code = "conflict"


class Unfinished(CataError):
    """Background work came to no result; what it worked on is safe, and it can be tried again."""

    code = "failed"


class Died(Unfinished):
    """The worker died: the work took too much memory, met a fault in a library, or somebody ended it."""

    code = "died"


class Away(Died):
    """What does the work was lost, and with it what it was at; it is no fault of the work, which is done again."""

    code = "away"


class TooSlow(Unfinished):
    """The work took longer than anything of its kind may."""

    code = "too_slow"
