"""The readings of a flight as a table: values with unit and doubt, and differences that can be trusted or not."""

from __future__ import annotations

from math import inf

from sqlmodel import col, select

from cata.core.choose.takes import Scatter
from cata.core.comparison import Doubt, compared, doubt_of, looks_among, usual_sd
from cata.core.measure.of_flights import MOTION, STROKES
from cata.core.measure.outcome import BOUND_SIGNS, Outcome
from cata.core.measure.regions import EDGES_HZ, REGIONS
from cata.core.measure.registry import ALL_READINGS, Reading, jnd_of
from cata.core.measure.results import Result, Results
from cata.core.peaks import chart_hz
from cata.said import said
from cata.services.evidence.reading_views import (
    CellReading,
    ReadingRow,
    ReadingsView,
    RegionShare,
    SpectrumView,
    Trust,
)
from cata.services.match.repeating import FlightRepeats, flight_repeats
from cata.services.takes.rows import placed_takes, readings_of
from cata.services.workspace import Workspace, require
from cata.store.tables import Analysed, Take, Test

NONE = "–"
"""A part that this take has not."""
SOUNDS_DB = 35.0
"""So far under its loudest a spectrum says nothing: there lies noise, or the skirt of a note."""
UNREAD = Result(refusal=said("unread", "not read yet"))

IN_TABLE = [reading for reading in ALL_READINGS if reading.key not in ("third_octaves_db", STROKES.key)]


def text_of(reading: Reading, known: Outcome, part: str = "") -> str:
    """A value, or a part of one, with its unit; words stay words."""
    inner = known.value.get(part) if isinstance(known.value, dict) else known.value
    if inner is None:
        return NONE if isinstance(known.value, dict) else ""
    if isinstance(inner, str):
        return inner
    if reading.key == "clipped":
        return f"{inner}"
    told = reading.of_part(part)
    return f"{BOUND_SIGNS[known.bound]}{inner:.{told.decimals}f} {told.unit}".strip()


def compare(
    reading: Reading,
    value: float | None,
    base: float | None,
    doubt: Doubt,
    bands: tuple[float, float] = (0.0, 0.0),
    looks: float = 1.0,
) -> tuple[float | None, str, Trust]:
    """Difference from a base: the number, its words, and whether it can be heard and trusted, as a verdict has it.

    ``looks``: how many such differences are looked at, as of :func:`looks_among`.
    """
    if value is None or base is None:
        return None, "", "unknown"
    difference = value - base
    jnd = jnd_of(reading, base)
    # Zero has no sign: -0.04 is no less than 0.04.
    amount = f"{round(difference, reading.decimals) + 0.0:+.{reading.decimals}f} {reading.step_unit}".strip()
    if jnd is None:
        return difference, amount, "unknown"
    if not compared(difference, jnd, doubt, bands, looks).trusted:
        return difference, f"{amount}: no difference you can trust", "unsure"
    return difference, f"{amount}: {reading.more if difference > 0 else reading.less}", "heard"


def get_readings(ws: Workspace, flight_id: int, test_id: int, against: int | None = None) -> ReadingsView:
    """All readings of the takes of a test; ``against`` is a contender's id."""
    with ws.reading() as session:
        test = require(session, Test, test_id)
        takes = [take for take, _ in placed_takes(session, test_id)] if test.flight_id == flight_id else []
        values = readings_of(
            session, [take.id or 0 for take in takes], {STROKES.key, *(reading.key for reading in IN_TABLE)}
        )
        base = next((take for take in takes if take.contender_id == against), None)
        repeats = flight_repeats(session, flight_id)
        rows = [
            _row(reading, part, name, takes, values, base, repeats)
            for reading in IN_TABLE
            for part, name in (reading.parts or (("", ""),))
            if not (reading.key == "clipped" and part == "samples")
        ]
        drawn = select(Analysed.take_id, Analysed.spectrum).where(col(Analysed.take_id).in_(values))
        curves = dict(session.exec(drawn).all())
        spectra = [
            SpectrumView(take_id=take.id or 0, contender_id=take.contender_id or 0, levels_db=curves[take.id or 0])
            for take in takes
        ]
        regions = [
            RegionShare(
                take_id=take.id or 0,
                contender_id=take.contender_id or 0,
                values_db=[values[take.id or 0].number(f"regions_db.{region.key}") for region in REGIONS],
            )
            for take in takes
        ]
    if base is not None:
        spectra = _spectra_against(spectra, base.id or 0)
        regions = _regions_against(regions, base.id or 0)
    return ReadingsView(
        test_id=test_id,
        against=base.contender_id if base is not None else None,
        hz=chart_hz(),
        spectra=spectra,
        region_names=[region.name for region in REGIONS],
        region_edges_hz=EDGES_HZ,
        regions=regions,
        rows=[row for row in rows if _worth_showing(row)],
        repeatability=repeats.said,
    )


def _worth_showing(row: ReadingRow) -> bool:
    """Whether a take has it, or was refused it; of motion only what some take does."""
    if row.key.startswith(f"{MOTION.key}."):
        return any(cell.text not in ("", NONE) for cell in row.cells)
    return any(cell.text or cell.refusal for cell in row.cells)


def _minus(values: list[float | None], base: list[float | None], reach_db: float = inf) -> list[float | None]:
    """What values lie over a base; None where neither sounds: both so far under their own loudest."""
    tops = [max((one for one in many if one is not None), default=0.0) for many in (values, base)]
    return [
        None
        if value is None or other is None or max(value - tops[0], other - tops[1]) < -reach_db
        else round(value - other, 2)
        for value, other in zip(values, base, strict=False)
    ]


def _spectra_against(spectra: list[SpectrumView], base_id: int) -> list[SpectrumView]:
    base = next(one.levels_db for one in spectra if one.take_id == base_id)
    return [one.model_copy(update={"levels_db": _minus(one.levels_db, base, SOUNDS_DB)}) for one in spectra]


def _regions_against(regions: list[RegionShare], base_id: int) -> list[RegionShare]:
    base = next(one.values_db for one in regions if one.take_id == base_id)
    return [one.model_copy(update={"values_db": _minus(one.values_db, base)}) for one in regions]


def _row(
    reading: Reading,
    part: str,
    part_name: str,
    takes: list[Take],
    values: dict[int, Results],
    base: Take | None,
    repeats: FlightRepeats,
) -> ReadingRow:
    key = f"{reading.key}.{part}" if part else reading.key
    band = repeats.bands.get(key)
    told = reading.of_part(part)
    usual = usual_sd(key, values.values()) if told.unit == reading.unit else None
    doubt = doubt_of(usual or 0.0, Scatter(band.sd, band.freedom) if band is not None else None)
    own = {
        take.id: values[take.id or 0].bands.get(reading.key, 0.0) if told.unit == reading.unit else 0.0
        for take in takes
    }
    base_number = values[base.id or 0].number(key) if base is not None else None
    looks = looks_among(len([take for take in takes if values[take.id or 0].number(key) is not None]))
    cells = []
    for take in takes:
        known = values[take.id or 0].get(reading.key, UNREAD)
        number = values[take.id or 0].number(key)
        bands = (own[take.id], own[base.id] if base is not None else 0.0)
        difference, words, trust = compare(told, number, base_number, doubt, bands, looks)
        if base is not None and take.id == base.id:
            difference, words, trust = None, "", "reference"
        cells.append(
            CellReading(
                take_id=take.id or 0,
                contender_id=take.contender_id or 0,
                value=number,
                text=text_of(reading, known, part) if known.value is not None else "",
                bound=known.bound,
                flag=known.flag,
                evidence=take.evidence,
                refusal=known.refusal,
                version=known.version,
                difference=difference,
                difference_text=words,
                trust=trust,
            )
        )
    numbers = [cell.value for cell in cells if cell.value is not None]
    return ReadingRow(
        key=key,
        name=reading.name,
        part=part_name,
        unit=told.unit,
        family=reading.family,
        about=reading.about,
        less=told.less,
        more=told.more,
        source=reading.source,
        jnd_text=_jnd_text(reading),
        repeat_text="" if band is None else f"±{band.sd:.{told.decimals}f} {told.step_unit}".strip(),
        spread=max(numbers) - min(numbers) if len(numbers) > 1 else None,
        noticed=jnd_of(reading, sum(numbers) / len(numbers)) if numbers else None,
        cells=cells,
    )


def _jnd_text(reading: Reading) -> str:
    if reading.jnd is None:
        return ""
    return f"{reading.jnd * 100:g} %" if reading.jnd_relative else f"{reading.jnd:g} {reading.step_unit}".strip()
