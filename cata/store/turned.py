"""A value with a change turned back: what others made of it since stays, part by part."""

from __future__ import annotations

from typing import Any


def _keyed(value: Any) -> dict[str, Any] | None:
    """A list of things with keys (knobs of an item, links of a chain) by key; None for anything else."""
    if not isinstance(value, list):
        return None
    found = {one["key"]: one for one in value if isinstance(one, dict) and isinstance(one.get("key"), str)}
    return found if len(found) == len(value) else None


def turned_value(here: Any, now: Any, then: Any) -> Any:
    """A value with a change turned back: part by part where it is a collection of named parts. ValueError elsewhere."""
    if here == now or now == then:
        return then if here == now else here
    if here == then:
        return here
    if all(isinstance(value, dict) for value in (here, now, then)):
        missing = object()
        turned = {
            name: turned_value(here.get(name, missing), now.get(name, missing), then.get(name, missing))
            for name in {**here, **now, **then}
        }
        return {name: value for name, value in turned.items() if value is not missing}
    mine, was, becomes = _keyed(here), _keyed(now), _keyed(then)
    if mine is not None and was is not None and becomes is not None:
        parts = turned_value(mine, was, becomes)
        order = [key for key in becomes if key in parts] if list(mine) == list(was) else list(mine)
        return [parts[key] for key in dict.fromkeys((*order, *parts)) if key in parts]
    raise ValueError("both have changed it")
