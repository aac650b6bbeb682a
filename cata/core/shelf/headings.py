"""What the headings and words of somebody's table stand for, in English and German."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import get_args

from cata.core.gear import GearKind
from cata.core.spec_fields import FIELDS
from cata.core.specs import field_named
from cata.errors import Invalid
from cata.said import Said, said

KINDS: tuple[GearKind, ...] = get_args(GearKind)
KIND_WORDS: Mapping[str, GearKind] = {
    "amp": "amplifier", "combo": "amplifier", "head": "amplifier", "effect": "pedal", "stompbox": "pedal",
    "cab": "speaker", "cabinet": "speaker", "mic": "microphone", "di": "direct box", "di box": "direct box",
    "speaker simulation": "direct box", "psu": "power supply", "supply": "power supply", "lead": "cable",
    "string": "strings", "humbucker": "pickup", "single coil": "pickup",
    "tonabnehmer": "pickup", "gitarre": "guitar", "gitarren": "guitar", "e gitarre": "guitar", "effekt": "pedal",
    "effektpedal": "pedal", "effektgerät": "pedal", "effektgeräte": "pedal", "bodeneffekt": "pedal",
    "bodentreter": "pedal", "pedale": "pedal", "verstärker": "amplifier", "gitarrenverstärker": "amplifier",
    "topteil": "amplifier", "lautsprecher": "speaker", "box": "speaker", "boxen": "speaker", "gitarrenbox": "speaker",
    "mikrofon": "microphone", "mikrofone": "microphone", "mikro": "microphone", "saiten": "strings",
    "saitensatz": "strings", "kabel": "cable", "netzteil": "power supply", "netzteile": "power supply",
    "stromversorgung": "power supply", "zubehör": "accessory",
}  # fmt: skip
TARGETS: Mapping[str, tuple[str, ...]] = {
    "kind": ("kind", "type", "category", "art", "class", "gattung", "kategorie", "warengruppe", "typ"),
    "name": ("name", "item", "title", "model", "product", "description short", "bezeichnung", "artikel", "modell",
             "produkt", "gerät"),
    "about": ("about", "description", "notes", "note", "comment", "remarks", "details", "beschreibung", "bemerkung",
              "notiz", "anmerkung"),
    "structure": ("structure", "circuit", "how it works", "schaltung", "aufbau"),
    "controls": ("controls", "knobs", "settings", "regler", "knöpfe"),
    "price new": ("price new", "new price", "price", "new", "retail", "list price", "rrp", "preis", "preis neu",
                  "neupreis", "neu", "listenpreis"),
    "price used": ("price used", "used price", "used", "second hand", "preis gebraucht", "gebrauchtpreis", "gebraucht"),
    "price offer": ("price offer", "offer", "my offer", "own offer", "sale price", "special", "preis angebot",
                    "angebot", "angebotspreis"),
    "currency": ("currency", "iso currency", "währung"),
    "price date": ("price date", "date", "on date", "as of", "preisdatum", "datum", "stand", "preis vom", "preisstand"),
    "price source": ("price source", "source", "shop", "seller", "dealer", "quelle", "händler", "anbieter", "laden"),
    "price new date": ("price new date", "date new", "preisdatum neu", "datum neu"),
    "price new source": ("price new source", "source new", "quelle neu", "händler neu"),
    "price used date": ("price used date", "date used", "preisdatum gebraucht", "datum gebraucht"),
    "price used source": ("price used source", "source used", "quelle gebraucht", "händler gebraucht"),
    "price offer date": ("price offer date", "date offer", "preisdatum angebot", "datum angebot"),
    "price offer source": ("price offer source", "source offer", "quelle angebot", "händler angebot"),
}  # fmt: skip
LEAVE = "leave out"
SPEC = "specification"
OF_SPEC = "specification: "


def spec_targets() -> list[str]:
    """Every field of a specification as a place for a column, each name once."""
    return list(dict.fromkeys(f"{OF_SPEC}{one.name}" for fields in FIELDS.values() for one in fields))


def propose_mapping(headers: Sequence[str]) -> list[str]:
    """The target of each column: one of TARGETS, or "specification" (kept under its own heading)."""
    taken: set[str] = set()
    mapping = []
    for header in headers:
        plain = re.sub(r"[\W_]+", " ", header.casefold()).strip()
        target = next((t for t, words in TARGETS.items() if plain in words and t not in taken), None)
        if target is None:
            target = SPEC if plain else LEAVE
        else:
            taken.add(target)
        mapping.append(target)
    return mapping


def check_mapping(mapping: Sequence[str], headers: Sequence[str]) -> None:
    """Raise Invalid where a mapping does not fit the table."""
    if len(mapping) != len(headers):
        raise Invalid(f"the table has {len(headers)} columns but {len(mapping)} are mapped", "bad_mapping")
    known = {*TARGETS, SPEC, LEAVE, *spec_targets()}
    for target in mapping:
        if target not in known:
            places = ", ".join((*TARGETS, SPEC, f"{OF_SPEC}(a field)", LEAVE))
            raise Invalid(f"{target!r} is not a place for a column; use one of {places}", "bad_mapping")
        if target not in (SPEC, LEAVE) and list(mapping).count(target) > 1:
            raise Invalid(f"two columns are both mapped to {target!r}", "bad_mapping")
    if "name" not in mapping:
        raise Invalid("one column must be the name", "no_name")


def read_kind(text: str) -> GearKind:
    """The kind a word stands for. Invalid where it is none."""
    plain = re.sub(r"[\W_]+", " ", text.casefold()).strip()
    for kind in KINDS:
        if plain in (kind, f"{kind}s"):
            return kind
    for word, kind in KIND_WORDS.items():
        if plain in (word, f"{word}s"):
            return kind
    raise Invalid(f"{text!r} is no kind of gear; use one of {', '.join(KINDS)}", "no_kind")


def not_understood(headers: Sequence[str], mapping: Sequence[str]) -> list[tuple[str, Said]]:
    """Headings that no field of any kind stands for: what is under them is kept, and said to be."""
    words = "{heading!r} is no heading that is known: kept as a specification of its own, unless pointed elsewhere"
    return [
        (header, said("no_heading", words, heading=header))
        for header, target in zip(headers, mapping, strict=True)
        if target == SPEC and not any(field_named(kind, header) for kind in KINDS)
    ]
