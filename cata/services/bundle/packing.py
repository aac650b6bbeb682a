"""Writing a bundle: tables as CSV, recordings as they came, a descriptor that says what is what."""

from __future__ import annotations

import json
import re
import secrets
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from sqlmodel import Session

from cata.core.card.card import Card
from cata.documents.card import card_file
from cata.errors import Refused
from cata.services.bundle.columns import described, schema_of, write_rows
from cata.services.bundle.links import TABLES
from cata.services.bundle.selecting import Rows, digests_of, some_rows
from cata.services.takes.rows import readings_of
from cata.services.workspace import Workspace

DESCRIPTOR = "datapackage.json"
FORMAT = "cata-bundle-2"
SAME_TIME = (1980, 1, 1, 0, 0, 0)
"""Of every file in it, so that the same data gives the same bytes."""
ABOUT = """A bundle of Cata: takes, gear, prices, briefs and decisions in open formats.

datapackage.json says what is what (Frictionless data package). data/ holds tables as CSV; cells of objects and lists
are JSON. A row has the number "id" in this bundle, and the name "uid" everywhere. audio/ holds the recordings, byte by
byte as they came, named by their SHA-256. readings.csv is what Cata read from them; it is worked out anew where a
bundle is brought in. documents/ holds decision cards to look at. Tastings that are not revealed yet are left out.
"""
READING_FIELDS = [
    {"name": "take", "type": "integer"}, {"name": "reading", "type": "string"}, {"name": "part", "type": "string"},
    {"name": "value", "type": "number"},
]  # fmt: skip


def export_bundle(
    ws: Workspace, target: Path, *, flight: int | None = None, brief: int | None = None, card: int | None = None
) -> int:
    """Write a bundle of a flight, a brief, a card, or of everything; how many recordings are in it.

    The file appears whole or not at all. Refused where there is no such folder.
    """
    if not target.parent.is_dir():
        raise Refused(f"there is no folder {target.parent}", "no_folder")
    with ws.reading() as session:
        rows, title = some_rows(session, flight=flight, brief=brief, card=card)
        texts = dict(_texts(session, rows))
    audio = {digest: name for digest, name in sorted(digests_of(rows).items()) if ws.vault.path(digest).exists()}
    descriptor = described(_resources(ws, rows, texts, audio), _slug(title), title) | {"cata": FORMAT}
    partial = target.with_name(f".{target.name}-{secrets.token_hex(6)}")
    try:
        with zipfile.ZipFile(partial, "w", zipfile.ZIP_DEFLATED, allowZip64=True) as archive:
            _put(archive, DESCRIPTOR, json.dumps(descriptor, ensure_ascii=False, indent=1).encode())
            _put(archive, "README.txt", ABOUT.encode())
            for name, content in texts.items():
                _put(archive, name, content)
            for digest, name in audio.items():
                info = zipfile.ZipInfo(_audio_name(digest, name), SAME_TIME)
                path = ws.vault.path(digest)
                info.file_size = path.stat().st_size
                with archive.open(info, "w") as out, path.open("rb") as source:
                    for chunk in iter(lambda: source.read(1 << 20), b""):
                        out.write(chunk)
        partial.replace(target)
    finally:
        partial.unlink(missing_ok=True)
    return len(audio)


def _put(archive: zipfile.ZipFile, name: str, content: bytes) -> None:
    archive.writestr(zipfile.ZipInfo(name, SAME_TIME), content, zipfile.ZIP_DEFLATED)


def _texts(session: Session, rows: Rows) -> Iterator[tuple[str, bytes]]:
    """Everything but the recordings, by name."""
    for table, model in TABLES.items():
        if rows[table]:
            yield f"data/{table}.csv", write_rows(model, [rows[table][ident] for ident in sorted(rows[table])])
    if rows["take"]:
        lines = ["take,reading,part,value"]
        for take, results in sorted(readings_of(session, rows["take"], as_read=True).items()):
            for key, value in sorted(results.numbers().items()):
                reading, _, part = key.partition(".")
                lines.append(f"{take},{reading},{part},{value!r}")
        yield "readings.csv", ("\n".join(lines) + "\n").encode()
    for ident, row in sorted(rows["choice"].items()):
        yield f"documents/card-{ident}.html", card_file(Card.model_validate(row["card"])).encode()


def _resources(ws: Workspace, rows: Rows, texts: dict[str, bytes], audio: dict[str, str]) -> Iterator[dict[str, Any]]:
    packed = [table for table in TABLES if rows[table]]
    for name, content in texts.items():
        if name.startswith("data/"):
            table = name.removeprefix("data/").removesuffix(".csv")
            yield _table(table, name, content, schema_of(TABLES[table], packed))
        elif name == "readings.csv":
            key = {"fields": ["take"], "reference": {"resource": "take", "fields": ["id"]}}
            yield _table("readings", name, content, {"fields": READING_FIELDS, "foreignKeys": [key]})
        else:
            yield {"name": _slug(name), "path": name, "mediatype": "text/html", "bytes": len(content)}
    for digest, name in audio.items():
        size = ws.vault.path(digest).stat().st_size
        yield {"name": f"audio-{digest[:16]}", "title": name, "path": _audio_name(digest, name), "bytes": size,
               "hash": f"sha256:{digest}"}  # fmt: skip


def _table(table: str, name: str, content: bytes, schema: dict[str, Any]) -> dict[str, Any]:
    return {"name": table, "path": name, "profile": "tabular-data-resource", "format": "csv", "mediatype": "text/csv",
            "encoding": "utf-8", "bytes": len(content), "schema": schema}  # fmt: skip


def _audio_name(digest: str, name: str) -> str:
    """Where a recording lies in the bundle: by its content, with the ending it came under where that is a plain one."""
    ending = Path(name).suffix.lower()
    return f"audio/{digest}{ending if re.fullmatch(r'[.][a-z0-9]{2,4}', ending) else ''}"


def _slug(text: str) -> str:
    return re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-")[:60] or "bundle"
