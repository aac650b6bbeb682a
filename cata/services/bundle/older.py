"""Bundles of the first format: what deals, briefs and tastings said of others stood in lists of numbers."""

from __future__ import annotations

import json
from typing import Any

from cata.errors import Refused
from cata.services.bundle.columns import Row

OLDER = "cata-bundle-1"
MOST_LISTED = 300


def brought_up(rows: dict[str, list[Row]]) -> dict[str, list[Row]]:
    """The same rows as they are written today.

    Tastings are left out: where a contender had been taken away, the lists that came with them name others.
    """
    names = {row["id"]: row.get("name", "") for row in rows["gear"]}
    for deal in rows["deal"]:
        for item in _listed(deal.pop("items", "[]")):
            _add(rows["deal_item"], deal_id=deal["id"], gear_id=item if item in names else None,
                 name=names.get(item, ""))  # fmt: skip
    for brief in rows["brief"]:
        need = brief.get("need") or {}
        own, feel = _listed(json.dumps(need.pop("own_items", []))), need.pop("feel", None) or {}
        for item in dict.fromkeys((*own, *(int(key) for key in feel if str(key).isdecimal()))):
            if item in names:
                _add(rows["brief_item"], brief_id=brief["id"], gear_id=item, name=names[item], own=item in own,
                     feel=feel.get(str(item)))  # fmt: skip
    return rows | {"tasting": [], "taster": [], "answer": []}


def _listed(text: str) -> list[int]:
    try:
        found = json.loads(text or "[]")
    except (ValueError, RecursionError) as error:
        raise Refused("a list of numbers in the bundle cannot be read", "bad_cell") from error
    if not isinstance(found, list) or len(found) > MOST_LISTED or not all(isinstance(one, int) for one in found):
        raise Refused("a list of numbers in the bundle cannot be read", "bad_cell")
    return found


def _add(rows: list[Row], **values: Any) -> None:
    rows.append({"id": len(rows) + 1, **values})
