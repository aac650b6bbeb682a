"""The command line: serve, demo, measure, match, slate, cut, import, backup, restore, gear and flight."""

from __future__ import annotations

from cata.cli import data, serving, sound
from cata.cli.common import app

__all__ = ["app", "data", "serving", "sound"]
