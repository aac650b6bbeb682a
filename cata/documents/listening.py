"""The listening page of a flight: a document with a player that works from a disk or any static host."""

from __future__ import annotations

import json
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from cata.documents.card import environment

PLAYER = Path(__file__).parent.parent / "static" / "listening-page.js"


def page_html(title: str) -> str:
    """The document; what it shows comes from ``flight.js`` beside it."""
    return environment().get_template("page.html.j2").render(title=title)


def player_script() -> str | None:
    """The player; None where the front end was not built."""
    return PLAYER.read_text(encoding="utf-8") if PLAYER.exists() else None


def flight_script(flight: Mapping[str, Any]) -> str:
    """What the page shows, as a script: ``<`` is written so that no text in it ends the script."""
    return f"window.cataFlight = {json.dumps(flight, indent=1).replace('<', chr(92) + 'u003c')};\n"


def audio_script(key: str, base64: str) -> str:
    """The sound of one take, as a script."""
    return f"(window.cataAudio ??= {{}})[{json.dumps(key)}] = '{base64}';\n"
