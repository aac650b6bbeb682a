"""Chains, conditions, blocks, schedules and cautions: what a plan means, and what it warns of."""

from __future__ import annotations

import pytest

from cata.core.gear import Control
from cata.core.plan.blocks import BLOCKS, SETS, Options, set_tests
from cata.core.plan.cautions import Device, cautions_for
from cata.core.plan.chain import (
    Chain,
    Conditions,
    Link,
    chain_problems,
    differences,
    in_signal_order,
    missing_settings,
    new_key,
    setup_of,
)
from cata.core.plan.condition import Condition, applied, role_of, unanswered
from cata.core.plan.schedule import REDO_SHARE, Cell, schedule
from cata.core.plan.setup import WARM_UP_S, Change, Part, changes
from cata.core.schools import QUESTIONS, chosen
from cata.errors import Invalid
from tests.conftest import declines


def knob(name: str, default: float = 0.5) -> Control:
    return Control(key=name.lower(), name=name, default=default)


DRIVE = [knob("Drive"), knob("Bass"), knob("Treble"), knob("Level")]
AMP = [knob("Volume"), knob("Treble")]
CHAIN = Chain(
    links=(
        Link(key="mic", kind="microphone", name="Sill"),
        Link(key="amp", kind="amplifier", name="Ebb", settings={"volume": 0.4, "treble": 0.5}),
        Link(key="delay", kind="pedal", name="Echo", place="loop"),
        Link(key="pedal", kind="pedal", name="Alder"),
        Link(key="guitar", kind="guitar", name="Kelp"),
        Link(key="speaker", kind="speaker", name="Twelve"),
    ),
    conditions=Conditions(strings="10–46"),
)
CONTROLS = {"pedal": DRIVE, "amp": AMP}


def test_links_stand_in_the_order_of_the_signal() -> None:
    names = [link.key for link in in_signal_order(CHAIN.links)]
    assert names == ["guitar", "pedal", "amp", "delay", "speaker", "mic"]
    after = CHAIN.with_link(Link(key="delay", kind="pedal", name="Echo", place="after"))
    assert [link.key for link in in_signal_order(after.links)][-2:] == ["delay", "mic"]
    assert CHAIN.compared("pedal") == CHAIN.link("pedal")
    assert CHAIN.compared("microphone") == CHAIN.link("mic")
    assert CHAIN.compared("cable") is None
    assert new_key(CHAIN, "pedal") == "pedal-2"


def test_what_differs_is_said_in_words_the_weightiest_first() -> None:
    other = CHAIN.with_link(Link(key="amp", kind="amplifier", name="Ebb", settings={"volume": 0.4, "treble": 0.95}))
    other = Chain(
        links=(*other.links, Link(key="boost", kind="pedal", name="Boost")),
        conditions=other.conditions.model_copy(update={"tuning": "a step down"}),
    )
    found = {c.key: (c.before, c.after) for c in differences(setup_of(CHAIN, CONTROLS), setup_of(other, CONTROLS))}
    assert list(found)[:2] == ["condition/tuning", "boost/place"]
    assert found["condition/tuning"] == ("standard", "a step down")
    assert found["amp/treble"] == ("5", "9.5")
    assert "amp/volume" not in found
    assert differences(setup_of(CHAIN, CONTROLS), setup_of(CHAIN, CONTROLS)) == []


def test_a_stage_that_is_off_has_no_knobs_to_set() -> None:
    off = CHAIN.with_link(Link(key="pedal", kind="pedal", name="Alder", on=False))
    assert not any(key.startswith("pedal/dri") for key in setup_of(off, CONTROLS))
    last = changes(setup_of(CHAIN, CONTROLS), setup_of(off, CONTROLS))[-1]
    assert (last.key, last.before, last.after) == ("pedal/on", "on", "off")


def test_knobs_and_strings_nobody_wrote_down_are_named() -> None:
    bare = Chain(links=CHAIN.links)
    assert missing_settings(bare, CONTROLS) == [
        "Drive of Alder", "Bass of Alder", "Treble of Alder", "Level of Alder", "strings",
    ]  # fmt: skip


def test_chains_that_cannot_be_played_are_told() -> None:
    two = CHAIN.with_link(Link(key="amp2", kind="amplifier", name="Other"))
    assert [one.code for one in chain_problems(two)] == ["two_amplifiers"]
    loop = Chain(links=(Link(key="d", kind="pedal", place="loop"),))
    assert [one.code for one in chain_problems(loop)] == ["loop_without_amplifier"]
    alone = Chain(links=(Link(key="a", kind="amplifier"),))
    assert [one.code for one in chain_problems(alone)] == ["nothing_behind_amplifier"]
    assert chain_problems(CHAIN) == []


@pytest.mark.parametrize(
    ("name", "role"),
    [
        ("Drive", "gain"), ("Pre-gain", "gain"), ("Fuzz", "gain"), ("Output", "level"), ("Master", "level"),
        ("Filter", "tone"), ("Middle", "mids"), ("Presence", "presence"), ("Blend", "blend"), ("Wobble", None),
    ],
)  # fmt: skip
def test_a_knobs_name_says_what_it_does(name: str, role: str | None) -> None:
    assert role_of(knob(name)) == role


def test_a_condition_turns_the_compared_link_only() -> None:
    asked = Condition(knobs={"gain": 1.0, "tone": 0.0}, pickup="neck", guitar_volume=0.6, power="half")
    played = applied(asked, CHAIN, "pedal", CONTROLS)
    assert played.link("pedal").settings == {"drive": 1.0, "bass": 0.0, "treble": 0.0}  # type: ignore[union-attr]
    assert played.link("amp") == CHAIN.link("amp")
    assert (played.conditions.pickup, played.conditions.guitar_volume, played.conditions.power) == ("neck", 0.6, "half")
    assert played.conditions.strings == "10–46"


@pytest.mark.parametrize(
    ("stage", "on"),
    [("as is", [True, True]), ("off", [False, True]), ("alone", [True, False]), ("stacked", [True, True])],
)
def test_stages_are_switched_alone_off_and_stacked(stage: str, on: list[bool]) -> None:
    played = applied(Condition(stage=stage), CHAIN, "pedal", CONTROLS)  # type: ignore[arg-type]
    assert [played.link("pedal").on, played.link("delay").on] == on  # type: ignore[union-attr]


def test_a_knob_that_is_not_there_is_told() -> None:
    assert unanswered(Condition(knobs={"gain": 1, "tone": 0}), DRIVE) == []
    assert unanswered(Condition(knobs={"blend": 1, "tone": 0}), [knob("Fuzz")]) == ["blend", "tone"]


def test_every_block_and_set_makes_tests_with_names_of_their_own() -> None:
    for block in BLOCKS:
        names = [test.name for test in block.make(Options())]
        assert names
        assert len(set(names)) == len(names)
    for ready in SETS:
        assert len({test.name for test in set_tests(ready)}) == len(set_tests(ready)) >= 4
    four = [test.condition.knobs for test in set_tests(next(s for s in SETS if s.key == "drives"))]
    assert four[0] == {"gain": 1.0}
    assert four[2] == {"gain": 0.0}
    assert {tuple(knobs.items()) for knobs in four[3:]} == {
        (("gain", gain), ("tone", tone)) for gain in (0.5, 1.0) for tone in (0.0, 1.0)
    }


def test_a_sweep_goes_from_end_to_end() -> None:
    sweep = next(block for block in BLOCKS if block.key == "sweep")
    assert [t.condition.knobs for t in sweep.make(Options(role="treble", positions=3))] == [
        {"treble": 0.0}, {"treble": 0.5}, {"treble": 1.0},
    ]  # fmt: skip
    with declines(Invalid, "out_of_range"):
        sweep.make(Options(positions=12))


def cell(amp: str, pedal: str, seconds: float = 20, warm: str = "") -> Cell:
    return Cell({"amp": Part("amplifier", "amplifier", amp), "p": Part("pedal", "pedal", pedal)}, seconds, 120, warm)


def test_a_schedule_adds_up_and_numbers_its_anchors() -> None:
    cells = [cell("Ebb", "A", warm="Ebb"), cell("Ebb", "B", warm="Ebb"), cell("Fen", "B", warm="Fen")]
    made = schedule(cells, [0, 1, 0, 2, 0])
    assert [step.anchor for step in made.steps] == [1, 0, 2, 0, 3]
    # 2 s count-in, 20 s playing, 12 s writing down.
    assert made.play_s == 5 * 34
    assert made.change_s == 60 + 60 + 360 + 360
    assert made.warm_s == 2 * WARM_UP_S
    assert made.steps[1].begins_s == 34 + 60
    assert made.total_s == pytest.approx(made.play_s * 1.15 + made.change_s + made.warm_s)


def test_sessions_keep_their_limit_and_open_with_the_anchor() -> None:
    cells = [cell("Ebb", name, warm="Ebb", seconds=200) for name in "ABCDEF"]
    made = schedule(cells, [0, 1, 2, 3, 4, 5, 0], session_limit_s=1200, anchor=0)
    assert made.sessions > 2
    spent = []
    for session in range(made.sessions):
        mine = [step for step in made.steps if step.session == session]
        assert mine[0].cell == 0
        # All that a person spends: valves that settle, change-overs, playing, and takes played again.
        spent.append(WARM_UP_S + sum(step.change_s + step.take_s * (1 + REDO_SHARE) for step in mine))
    assert max(spent) <= 1200
    assert sum(spent) == pytest.approx(made.total_s)
    with declines(Invalid, "short_session"):
        schedule(cells, [0, 1], session_limit_s=60)


def change(key: str, kind: str) -> Change:
    return Change(key, kind, kind, "a", "b", 60)  # type: ignore[arg-type]


def test_cautions_stand_where_the_task_arises() -> None:
    valve = Device("amplifier", "Ebb", {"weight_kg": 23.0, "watts": 22.0, "speaker_load_ohm": 8.0})
    light = Device("amplifier", "Fen", {"weight_kg": 9.0, "watts": 2.0, "build": "solid-state"})
    told = {one.code: one.numbers for one in cautions_for([change("amp", "amplifier")], {"amp": valve})}
    assert told == {"lifting": {"name": "Ebb", "kg": 23.0}, "valves": {"ohm": 8.0}, "hearing": {}}

    def cautioned(*changed: str, **devices: Device) -> list[str]:
        return [one.code for one in cautions_for([change(kind[0], kind) for kind in changed], devices)]

    assert cautioned("amplifier", a=light) == ["speaker"]
    assert cautioned("strings", "pickup", "strings") == ["strings", "soldering"]
    nine = Device("pedal", "Alder", {"voltage_v": 9.0, "polarity": "centre negative"})
    odd = Device("pedal", "Birk", {"voltage_v": 18.0, "polarity": "centre positive"})
    assert cautioned("pedal", p=nine) == []
    (power,) = cautions_for([change("p", "pedal")], {"p": odd})
    assert power.numbers == {"name": "Birk", "volts": 18.0, "polarity": "centre positive"}
    assert cautioned("knob", k=valve) == []


def test_an_amplifier_of_unknown_build_is_treated_as_the_dangerous_kind() -> None:
    assert Device("amplifier", "Ebb", {}).has_valves
    assert not Device("pedal", "Ebb", {}).has_valves


def test_every_question_has_schools_with_reason_and_cost_and_a_default() -> None:
    assert len(QUESTIONS) == 9
    for question in QUESTIONS:
        assert len({school.key for school in question.schools}) == len(question.schools) >= 2
        assert all(school.good_for and school.costs for school in question.schools)
        assert chosen({}, question.key) is question.default
        assert chosen({question.key: question.schools[-1].key}, question.key) is question.schools[-1]
    assert chosen({"level": "nonsense"}, "level").key == "equal"
