"""Pickups against each other by their open strings: output, balance, height, bridge to neck. No numpy."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from cata.core.workshop.coil import millivolts
from cata.said import Said, Telling, said

JUST_HEARD_DB = 1.0
SIDE_HEARD_DB = 1.5
EVEN_DB = 2.0
SAME_MM = 0.05
WAVER_HEARD_DB, WAVER_HEARD_CENTS = 0.5, 4.0
BASS_SIDE, TREBLE_SIDE = ("1", "2", "3"), ("4", "5", "6")
IN_MV = Said("in_mv", "in mV")
AS_RECORDED = Said("as_recorded", "if the input gain was left alone")
UNTOLD = Said("untold", "no difference in output you can trust")
POSITIONS = ("bridge", "middle", "neck")


@dataclass(frozen=True, kw_only=True)
class Strung:
    """Six open strings through one pickup.

    ``heard_lufs`` and ``rms_dbfs`` their level as recorded; ``bass_mm`` and ``treble_mm`` from string to pole with the
    strings pressed at the last fret; ``calibrated``: dBFS and mV of a tone recorded at the same input gain.
    """

    ident: int
    gear_id: int
    name: str
    heard_lufs: float
    rms_dbfs: float
    balance_db: Mapping[str, float]
    position: str = ""
    bass_mm: float | None = None
    treble_mm: float | None = None
    calibrated: tuple[float, float] | None = None
    output_band_db: float | None = None
    balance_band_db: float | None = None
    waver: Mapping[str, float] | None = None
    decay_db_per_s: Mapping[str, float] = field(default_factory=dict)

    @property
    def output_mv(self) -> float | None:
        """RMS of the first second of a stroke in mV, None without a calibrating tone."""
        return None if self.calibrated is None else millivolts(self.rms_dbfs, *self.calibrated)

    @property
    def height_mm(self) -> float | None:
        """Mean distance of string and pole."""
        known = [mm for mm in (self.bass_mm, self.treble_mm) if mm is not None]
        return sum(known) / len(known) if known else None

    @property
    def wavers(self) -> bool:
        """True where a string wavers enough to be heard."""
        if self.waver is None:
            return False
        return self.waver["level_db"] >= WAVER_HEARD_DB or self.waver["pitch_cents"] >= WAVER_HEARD_CENTS

    def side_db(self, strings: Sequence[str]) -> float:
        """Mean of some strings against the mean of all."""
        return sum(self.balance_db[string] for string in strings) / len(strings)


@dataclass(frozen=True)
class Against:
    """One recording against another: louder by so many dB, by what right, whether that can be trusted and heard."""

    output_db: float
    basis: Said
    band_db: float | None
    said: Said
    heard: bool
    strings_db: Mapping[str, float]


def against(one: Strung, reference: Strung) -> Against:
    """How much louder one pickup is than another, and which strings change most between them."""
    mv = one.output_mv, reference.output_mv
    if mv[0] is not None and mv[1] is not None:
        gap, basis = 20 * math.log10(mv[0] / mv[1]), IN_MV
    else:
        gap, basis = one.heard_lufs - reference.heard_lufs, AS_RECORDED
    bands = [band for band in (one.output_band_db, reference.output_band_db) if band is not None]
    # Each band is that of two alike; two different ones meet in the middle.
    band = math.sqrt(sum(b * b for b in bands) / 2) if len(bands) == 2 else None
    heard = abs(gap) >= max(JUST_HEARD_DB, band or 0.0)
    word = "louder" if gap > 0 else "quieter"
    told = said(word, f"{{db:.1f}} dB {word}", db=abs(gap)) if heard else UNTOLD
    changes = {string: one.balance_db[string] - reference.balance_db[string] for string in one.balance_db}
    return Against(gap, basis, band, told, heard, changes)


@dataclass(frozen=True)
class HeightPoint:
    """Output at one height, against the lowest output of them, and whether strings waver there."""

    ident: int
    height_mm: float
    output_db: float
    wavers: bool


@dataclass
class Heights(Telling):
    """What raising a pickup does: points by height (far first), dB a mm, and what to do."""

    points: tuple[HeightPoint, ...]
    db_per_mm: float


def heights(rows: Sequence[Strung]) -> Heights | None:
    """Output and waver against height, of one pickup in one position; None with fewer than two heights."""
    by_height: dict[float, Strung] = {}
    for row in rows:
        if row.height_mm is not None:
            by_height[round(row.height_mm / SAME_MM) * SAME_MM] = row
    if len(by_height) < 2:
        return None
    ordered = sorted(by_height.items(), reverse=True)
    base = ordered[0][1]
    points = tuple(
        HeightPoint(row.ident, round(mm, 2), round(against(row, base).output_db, 2), row.wavers) for mm, row in ordered
    )
    slope = (points[-1].output_db - points[0].output_db) / (points[0].height_mm - points[-1].height_mm)
    found = Heights(points, slope)
    words = "From {far_mm:.1f} to {near_mm:.1f} mm it gains {db:.1f} dB, {slope:.1f} dB a millimetre."
    far, near_mm = points[0].height_mm, points[-1].height_mm
    found.tell("gains", words, far_mm=far, near_mm=near_mm, db=points[-1].output_db, slope=slope)
    near = [p for p in points if p.wavers]
    free = [p for p in points if not p.wavers]
    if near and free:
        words = "At {near_mm:.1f} mm the strings waver: the magnet pulls them; keep {keep_mm:.1f} mm."
        found.tell("waver_near", words, near_mm=near[0].height_mm, keep_mm=free[-1].height_mm)
    elif near:
        found.tell("waver_everywhere", "The strings waver at every height measured: lower it.")
    else:
        found.tell("no_waver", "No string wavers at any of them.")
    return found


def advice(row: Strung, db_per_mm: float | None = None) -> list[Said]:
    """What the balance of one recording asks for: which side to raise, which pole stands out, whether to lower it."""
    found = []
    doubt = row.balance_band_db or 0.0
    tilt = row.side_db(TREBLE_SIDE) - row.side_db(BASS_SIDE)
    if abs(tilt) >= max(SIDE_HEARD_DB, doubt):
        quiet, loud = ("bass", "treble") if tilt > 0 else ("treble", "bass")
        words = f"The {loud} side is {{db:.1f}} dB louder: raise the {quiet} side or lower the {loud} side"
        if db_per_mm and db_per_mm > 0.5:
            words += " by about {mm:.1f} mm in all."
            found.append(said(f"{loud}_side", words, db=abs(tilt), mm=abs(tilt) / db_per_mm))
        else:
            found.append(said(f"{loud}_side", words + ".", db=abs(tilt)))
    for string, level in row.balance_db.items():
        side = row.side_db(BASS_SIDE if string in BASS_SIDE else TREBLE_SIDE)
        if abs(level - side) >= max(EVEN_DB, doubt):
            word = "louder" if level > side else "quieter"
            words = f"String {{string}} is {{db:.1f}} dB {word} than its neighbours: "
            words += "turn its own pole screw, if it has one."
            found.append(said(f"string_{word}", words, string=7 - int(string), db=abs(level - side)))
    if row.wavers and row.waver is not None:
        words = (
            "String {string} wavers {rate_hz:.1f} times a second by {cents:.0f} cents: the magnet is too close, lower "
            "the pickup."
        )
        number, waver = 7 - int(row.waver["string"]), row.waver
        found.append(said("wavers", words, string=number, rate_hz=waver["rate_hz"], cents=waver["pitch_cents"]))
    return found


def bridge_to_neck(own: Sequence[Strung], others: Sequence[Strung] = ()) -> Said | None:
    """How a neck pickup stands against a bridge pickup, at least one of them from ``own``, by the latest of each.

    None where no such pair was recorded. An item recorded in both positions is held against itself.
    """
    last = {row.position: row for row in own}
    if not last.keys() & {"bridge", "neck"}:
        return None
    for row in others:
        if row.position not in {one.position for one in own}:
            last[row.position] = row
    if "bridge" not in last or "neck" not in last:
        return None
    neck, bridge = last["neck"], last["bridge"]
    found = against(neck, bridge)
    if not found.heard:
        words = "{neck} and {bridge} are as loud as each other."
        return said("alike", words, neck=_placed(neck), bridge=_placed(bridge))
    move = "lower it, or raise" if found.output_db > 0 else "raise it, or lower"
    words = f"{{neck}} is {found.said.words} than {{bridge}}: {move} the bridge pickup."
    return said(found.said.code, words, neck=_placed(neck), bridge=_placed(bridge), db=abs(found.output_db))


def _placed(row: Strung) -> str:
    height = "" if row.height_mm is None else f" ({row.height_mm:.1f} mm)"
    return f"{row.name} at the {row.position}{height}"
