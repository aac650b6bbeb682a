"""A flight as a page to listen to: one folder of files, to be opened from a disk or put on any host."""

from __future__ import annotations

import base64
import io
import os
import zipfile
from pathlib import Path
from tempfile import NamedTemporaryFile

from cata.core.match.gains import School
from cata.documents.listening import audio_script, flight_script, page_html, player_script
from cata.errors import Refused
from cata.media.encode import encoded
from cata.services.shown.sounds import ONE_AT_A_TIME, ShownFlight, ShownTake, shown
from cata.services.workspace import Workspace

MOST_BYTES = 14_000_000
"""A page that is larger is made smaller by losing what nobody hears."""
LOSSLESS, SMALLER = ("FLAC", "PCM_16"), ("OGG", "VORBIS")
BASE64 = 4 / 3
MOMENT = (2020, 1, 1, 0, 0, 0)
"""The same flight gives the same bytes."""


def make_page(
    ws: Workspace, flight_id: int, *, blind: bool = False, prices: bool = True, school: School | None = None
) -> dict[str, bytes]:
    """The files of a listening page by their names. Refused where the front end was not built."""
    script = player_script()
    if script is None:
        raise Refused("the player of the page is not there: build the front end first (make setup)", "no_player")
    flight = shown(ws, flight_id, school)
    with ONE_AT_A_TIME:
        sounds = _sounds([take for test in flight.tests for take in test.takes])
    files = {"index.html": page_html(flight.name).encode(), "player.js": script.encode()}
    keys = iter(range(1, len(sounds) + 1))
    tests = [
        {
            "name": test.name, "about": test.about,
            "takes": [
                {"key": f"take{next(keys):03d}", "name": take.view.name, "none": take.view.is_bypass,
                 "price": take.view.price_text if prices and not take.view.is_bypass else ""}
                for take in test.takes
            ],
        }
        for test in flight.tests
    ]  # fmt: skip
    told = {"title": flight.name, "question": flight.question, "school": _school(flight), "blind": blind,
            "made": f"Made {ws.now()[:10]}.", "tests": tests}  # fmt: skip
    files["flight.js"] = flight_script(told).encode()
    for number, sound in enumerate(sounds, start=1):
        key = f"take{number:03d}"
        files[f"audio/{key}.js"] = audio_script(key, base64.b64encode(sound).decode()).encode()
    return files


def _school(flight: ShownFlight) -> str:
    text = flight.tests[0].school_text
    return text[:1].upper() + text[1:]


def _sounds(takes: list[ShownTake]) -> list[bytes]:
    found: list[bytes] = []
    for take in takes:
        found.append(encoded(take.clip(), *LOSSLESS))
        if sum(map(len, found)) * BASE64 > MOST_BYTES:
            return [encoded(one.clip(), *SMALLER) for one in takes]
    return found


def write_page(
    ws: Workspace, flight_id: int, target: Path, *, blind: bool = False, prices: bool = True,
    school: School | None = None,
) -> int:  # fmt: skip
    """Write a listening page as a ZIP; how many bytes it has. The file appears whole or not at all."""
    content = zipped(make_page(ws, flight_id, blind=blind, prices=prices, school=school))
    with NamedTemporaryFile(dir=target.absolute().parent, delete=False) as out:
        out.write(content)
    os.chmod(out.name, 0o644)
    os.replace(out.name, target)
    return len(content)


def zipped(files: dict[str, bytes]) -> bytes:
    """Files as a ZIP; sound is packed already."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in files.items():
            entry = zipfile.ZipInfo(name, MOMENT)
            entry.external_attr = 0o644 << 16
            archive.writestr(entry, content, zipfile.ZIP_DEFLATED)
    return out.getvalue()
