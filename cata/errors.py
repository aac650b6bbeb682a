"""The one tree of errors that Cata can explain to a person.

CataError
├── Refused        an input or a measurement that Cata declines, with a plain reason
│   └── BadAudio   a file that cannot be used as a recording
├── NotFound       a thing that is not (or no longer) there
├── Invalid        a value that breaks a rule of the job
└── Conflict       an action that the present state does not allow

HTTP status codes are chosen in ``cata.api`` only; exit codes in ``cata.cli`` only.
"""

from __future__ import annotations


class CataError(Exception):
    """Base of every error with a message meant for a person."""

    @property
    def message(self) -> str:
        """The plain sentence to show."""
        return str(self)


class Refused(CataError):
    """An input or a measurement is declined; the message says why."""


class BadAudio(Refused):
    """A file cannot be used as a recording.

    ``code`` is a stable short name of the reason, for scripts and tests.
    """

    def __init__(self, code: str, message: str) -> None:
        super().__init__(message)
        self.code = code


class NotFound(CataError):
    """A thing that was asked for is not there."""

    def __init__(self, noun: str, ident: object) -> None:
        super().__init__(f"There is no {noun} {ident}. It may have been removed in another window.")
        self.noun = noun


class Invalid(CataError):
    """A value breaks a rule; the message names the parameter, the rule and the value received."""


class Conflict(CataError):
    """The present state does not allow the action."""
