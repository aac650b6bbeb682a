"""Everything that a person entered, as one open file: the same data gives the same bytes."""

from __future__ import annotations

import json

from sqlmodel import select

from cata import __version__
from cata.services.workspace import Workspace
from cata.store.changes import TRACKED

FORMAT = "cata-data-1"


def export_all(ws: Workspace) -> bytes:
    """All rows that a person entered as JSON, by table and id; recordings by their SHA-256.

    What is derived (readings, findings) is left out: it can be computed again from what is here.
    """
    with ws.reading() as session:
        tables = {
            name.lower(): sorted(
                (row.model_dump(mode="json") for row in session.exec(select(model)).all()),
                key=lambda row: int(row["id"]),
            )
            for name, model in TRACKED.items()
        }
    document = {"format": FORMAT, "version": __version__, "tables": tables}
    return json.dumps(document, ensure_ascii=False, indent=1, sort_keys=True).encode()
