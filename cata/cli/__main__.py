"""``python -m cata.cli`` is ``cata``."""

from __future__ import annotations

from cata.cli import app

app()
