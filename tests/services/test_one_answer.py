"""One pair, one answer: what differs, and how sure, is the same on every page, in every file, on the command line."""

from __future__ import annotations

import json
import random

import pytest
from sqlmodel import col, delete
from typer.testing import CliRunner

from cata.cli import app
from cata.core.measure.registry import BY_KEY
from cata.core.measure.results import Result, Results, as_kept
from cata.core.taught.differences import TOLD
from cata.services.evidence.readings import get_readings
from cata.services.standing import flight as standing
from cata.services.takes.rows import placed_takes, readings_of
from cata.services.verdict.teaching import get_differences, get_verdict
from cata.services.workspace import Workspace
from cata.store.tables import Reading
from tests.services.test_flow import afternoon, data_dir, imported

__all__ = ["afternoon", "data_dir", "imported"]

USUAL = {"level_spread_db": 12.0, "sustain": 20.0, "low_tightness_ms": 120.0}


def differing(ws: Workspace, flight: int, seed: int) -> None:
    """Give the takes of a flight readings that differ by little to much."""
    chance = random.Random(seed)
    with ws.writing() as session:
        for test in standing.get_flight(ws, flight).tests:
            for take, _ in placed_takes(session, test.id):
                told = readings_of(session, [take.id or 0], as_read=True)[take.id or 0]
                for key, part in TOLD:
                    if key in USUAL:
                        value = USUAL[key] * (1 + chance.choice((0.0, 0.02, 0.1, 0.4)) * chance.choice((-1, 1)))
                        told[key] = Result(value={part: value} if part else value, band=0.01 * value)
                session.exec(delete(Reading).where(col(Reading.take_id) == take.id))
                session.add_all(
                    Reading(take_id=take.id or 0, key=key, version=BY_KEY[key].version, result=one)
                    for key, one in as_kept(Results(told)).items()
                )


@pytest.mark.parametrize("seed", range(6))
def test_the_same_pair_is_told_alike_everywhere(ws: Workspace, imported: int, seed: int) -> None:
    differing(ws, imported, seed)
    flight = standing.get_flight(ws, imported)
    said: dict[tuple[int, str], tuple[bool, str]] = {}
    for test in flight.tests:
        one, other = [contender.id for contender in flight.contenders if not contender.is_bypass]
        heard = {
            row.key: cell.difference
            for row in get_readings(ws, imported, test.id, against=other).rows
            for cell in row.cells if cell.contender_id == one and cell.trust == "heard"
        }  # fmt: skip
        told = {
            str(one.said.numbers["reading"]): one.said.numbers
            for one in get_differences(ws, imported, test.id).differences
        }
        for key, part in TOLD:
            if key in USUAL:
                name = f"{key}.{part}" if part else key
                assert (name in heard) == (key in told), (test.name, name, heard.get(name))
                if key in told:
                    more = (float(told[key]["amount"]) > 0) == (told[key]["contender"] == one)
                    assert more == ((heard[name] or 0.0) > 0)
                    said[test.id, key] = (more, str(told[key]["sure"]))
    sentences = get_verdict(ws, imported).sentences
    for sentence in sentences:
        numbers = sentence.said.numbers
        for test_id in sentence.holds_in:
            if (test_id, numbers.get("reading")) in said and sentence.proof and sentence.proof.test_id == test_id:
                assert said[test_id, str(numbers["reading"])][1] == numbers["sure"]
    answer = CliRunner().invoke(app, ["flight", "verdict", str(imported), "--json", "--data-dir", str(ws.data_dir)])
    assert [one["said"]["words"] for one in json.loads(answer.stdout)["sentences"]] == [
        one.said.words for one in sentences
    ]
