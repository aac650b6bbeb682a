"""What an item can do, not only what was recorded: measurements beside flights, and the setting for each sound."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient
from sqlmodel import select

from cata.core.brief import Need, Sound, Target
from cata.core.gear import Control
from cata.core.measure.registry import BY_KEY, METHOD
from cata.core.plan.condition import Condition, Role
from cata.services.choice.choosing import choose
from cata.services.choice.views import ChoiceItem, SettingFor
from cata.services.flights import table
from cata.services.flights.table import ContenderIn, FlightIn, TestIn
from cata.services.plan.editing import set_condition
from cata.services.shelf import gear
from cata.services.shelf.gear import GearIn
from cata.services.workspace import Workspace
from cata.store.tables import Analysed, Probe, ProbedPlaying, Reading, Take
from tests.services.test_probing import item, settle

KNOBS = [Control(key="drive", name="Drive"), Control(key="tone", name="Tone"), Control(key="level", name="Level")]
GRIT = Sound(key="grit", name="Grit", targets=[
    Target(reading="equivalent_drive", part="percent", low=8, high=12),
    Target(reading="tilt_db_per_oct", low=-0.5, high=0.5, against="reference"),
])  # fmt: skip
NEED = Need(sounds=[GRIT])


def pedal(ws: Workspace, name: str) -> int:
    return gear.add_gear(ws, GearIn(kind="pedal", name=name, controls=KNOBS)).id


def measure(ws: Workspace, ident: int, drive: float, percent: float, tilt: float = 0.0) -> int:
    """A measurement that was read: its playing shows this drive and tilt, the bare signal none."""

    def shows(value: float, other: float) -> dict[str, dict[str, object]]:
        return {"equivalent_drive": {"value": {"percent": value}}, "tilt_db_per_oct": {"value": -3.0 + other}}

    with ws.writing() as session:
        probe = Probe(gear_id=ident, digest=f"{ident}-{drive}", size_bytes=1, filename="x.wav",
                      settings={"drive": drive, "tone": 0.5, "level": 0.5}, added_at=ws.now())  # fmt: skip
        session.add(probe)
        session.flush()
        session.add(ProbedPlaying(probe_id=probe.id or 0, own=shows(percent, tilt), sent=shows(0.0, 0.0)))
        return probe.id or 0


def play(ws: Workspace, rows: dict[int, float], knobs: dict[Role, float] | None = None, *, bypass: bool = True) -> int:
    """A flight whose test may ask for knobs, each item with a take of this drive."""
    ident = table.add_flight(ws, FlightIn(name="Grit", link="pedal"))
    test = table.add_test(ws, ident, TestIn(name="Grit chords", sound="grit"))
    if knobs:
        set_condition(ws, test, Condition(knobs=knobs))
    played = {table.add_contender(ws, ident, ContenderIn(gear_id=one)): value for one, value in rows.items()}
    if bypass:
        played[table.add_contender(ws, ident, ContenderIn(name="No pedal", is_bypass=True))] = 0.0
    with ws.writing() as session:
        for row, value in played.items():
            take = Take(flight_id=ident, contender_id=row, test_id=test, digest=f"{ident}-{row}", filename="x.wav",
                        size_bytes=1)  # fmt: skip
            session.add(take)
            session.flush()
            session.add(Analysed(take_id=take.id or 0, method=METHOD, spectrum=[0.0], outline=[0.5]))
            for key, result in (("equivalent_drive", {"percent": value}), ("tilt_db_per_oct", -3.0)):
                version = BY_KEY[key].version
                session.add(Reading(take_id=take.id or 0, key=key, version=version, result={"value": result}))
    return ident


def stands(ws: Workspace, name: str) -> tuple[ChoiceItem, SettingFor]:
    found = next(one for one in choose(ws, "pedal", need=NEED).ranked if one.name == name)
    return found, found.settings[0]


def test_an_item_that_was_only_measured_is_ranked_beside_those_that_were_played(ws: Workspace) -> None:
    alder, birk = pedal(ws, "Alder"), pedal(ws, "Birk")
    play(ws, {alder: 30.0})
    probe = measure(ws, birk, 0.5, 10.0)
    found, setting = stands(ws, "Birk")
    assert found.place == 1
    assert found.grounds is not None
    assert found.grounds.words.startswith("1 setting measured with the test file")
    assert setting.said.code == "measured"
    assert setting.hear is not None
    assert setting.hear.key == f"setting-{probe}"
    # What only the test file heard is less sure than what was played.
    assert (found.fit_high or 0) - (found.fit_low or 0) > 0.05


def test_what_only_the_test_file_heard_is_linked_by_a_take(ws: Workspace) -> None:
    alder, birk, corm = pedal(ws, "Alder"), pedal(ws, "Birk"), pedal(ws, "Corm")
    flight = play(ws, {alder: 30.0, birk: 10.0}, bypass=False)
    for drive in (0.0, 0.5, 1.0):
        measure(ws, corm, drive, 10.0)
    (apart,) = choose(ws, "pedal", need=NEED).apart
    assert apart.name == "Corm"
    assert apart.flight_id == flight
    assert apart.said.words.startswith("Corm is not comparable yet: a take of Corm in “Grit”")


def test_a_measurement_tells_where_to_set_what_was_played_too_hot(ws: Workspace) -> None:
    alder = pedal(ws, "Alder")
    play(ws, {alder: 30.0})
    before, setting = stands(ws, "Alder")
    assert setting.said.code == "played"
    assert [knob.position for knob in setting.knobs] == [0.5, 0.5, 0.5]
    for drive, percent in ((0.0, 0.0), (0.5, 30.0), (1.0, 60.0)):
        measure(ws, alder, drive, percent)
    after, setting = stands(ws, "Alder")
    assert after.fit is not None
    assert before.fit is not None
    assert after.fit > before.fit + 0.2
    assert setting.said.code == "between"
    assert 0.1 <= setting.knobs[0].position <= 0.3
    assert setting.said.numbers["low"] < setting.said.numbers["high"]
    assert setting.hear is not None
    assert setting.hear.text.startswith("Drive ")


def test_a_knob_that_a_test_turned_stands_where_the_test_had_it(ws: Workspace) -> None:
    alder = pedal(ws, "Alder")
    play(ws, {alder: 30.0})
    play(ws, {alder: 10.0}, knobs={"gain": 0.2})
    _, setting = stands(ws, "Alder")
    assert [knob.text for knob in setting.knobs] == ["2", "5", "5"]
    assert setting.hear is not None
    assert setting.hear.flight_id is not None


def test_what_changes_with_a_measurement_is_noticed(ws: Workspace) -> None:
    alder = pedal(ws, "Alder")
    play(ws, {alder: 30.0})
    measure(ws, alder, 0.1, 10.0)
    assert stands(ws, "Alder")[1].said.code == "measured"
    with ws.writing() as session:
        for one in session.exec(select(Probe)).all():
            session.delete(one)
    assert stands(ws, "Alder")[1].said.code == "played"


def test_the_level_knob_makes_no_other_sound(ws: Workspace) -> None:
    alder = pedal(ws, "Alder")
    with ws.writing() as session:
        for level in (0.0, 0.5, 1.0):
            probe = Probe(gear_id=alder, digest=f"{level}", size_bytes=1, filename="x.wav", added_at=ws.now(),
                          settings={"drive": 0.5, "tone": 0.5, "level": level})  # fmt: skip
            session.add(probe)
            session.flush()
            shown = {"equivalent_drive": {"value": {"percent": 10.0 + level}}}
            session.add(ProbedPlaying(probe_id=probe.id or 0, own=shown, sent=shown))
    assert stands(ws, "Alder")[1].said.code == "measured"


@pytest.mark.certify
def test_from_the_test_file_to_a_setting_that_can_be_heard(client: TestClient) -> None:
    ident = item(client)
    for drive in ("0", "5", "10"):
        body = {"settings": {"drive": drive}}
        assert client.post(f"/api/gear/{ident}/probes/bench", json=body).status_code == 201
    settle(client)
    choice = client.post("/api/choice", params={"kind": "pedal"}, json=NEED.model_dump(mode="json")).json()
    (found,) = choice["ranked"]
    hear = found["settings"][0]["hear"]
    tray = client.get(f"/api/gear/{ident}/proof/{hear['key']}").json()
    assert len(tray["takes"]) == 3
    assert tray["takes"][0]["key"] == f"probe-{hear['key'].removeprefix('setting-')}"
    assert client.get(f"/api/gear/{ident}/proof/setting-999").status_code == 404
