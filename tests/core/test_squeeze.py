"""What a compressor is asked, and from when on an item counts as one."""

from __future__ import annotations

from dataclasses import replace

import pytest

from cata.core.evidence.probe import Probe
from cata.core.evidence.questions import four_questions
from cata.core.evidence.squeeze import squeezes_only
from cata.core.gear import Control
from cata.core.measure.results import Result
from cata.said import said
from tests.probes import codes, probe, results

BLEND, ATTACK = Control(key="blend", name="Blend"), Control(key="attack", name="Attack")
GAIN = [(-40.0, 6.0), (-20.0, 0.0), (0.0, -12.0)]
DRY = probe(
    1, "Blend 0", {"blend": 0.0, "attack": 0.0}, {"gain_db": 0.0, "transparency_db": 0.0},
    refusals={"compressor": "no_compressor"}, pictures={"gain": [(-40.0, 0.0)]},
)  # fmt: skip


def squeezing(ident: int, blend: float, kept: float, attack: float = 0.0, noise: float = 9.0, **parts: float) -> Probe:
    name = f"Blend {10 * blend:g}, Attack {10 * attack:g}"
    found = {"dynamics_kept_percent": kept, "attack_ms": 4.0 + 36.0 * attack, "release_ms": 300.0} | parts
    readings = {"gain_db": 6.0, "compressor": found, "noise_up_db": noise, "transparency_db": 0.1}
    return probe(
        ident, name, {"blend": blend, "attack": attack}, readings, pictures={"gain": GAIN, "burst": [(0.0, 0.0)]}
    )


FULL = squeezing(2, 1.0, 30.0, threshold_dbfs=-38.0, ratio=5.0, knee_db=6.0)
HALF = squeezing(3, 0.5, 64.0)
HALF.results["compressor.ratio"] = Result(refusal=said("no_single_slope", "nothing describes it"))
SLOW = squeezing(4, 1.0, 31.0, attack=1.0, threshold_dbfs=-38.0, ratio=5.0, knee_db=6.0)


def test_a_compressor_is_asked_how_hard_how_fast_and_what_is_kept() -> None:
    hard, fast, kept, clean = four_questions([DRY, FULL, HALF, SLOW], [BLEND, ATTACK])
    (how,) = hard.told
    assert (how.code, how.numbers) == (
        "firm", {"setting": "Blend 10, Attack 0", "threshold_dbfs": -38.0, "ratio": 5.0},
    )  # fmt: skip
    assert hard.proof == (2, 1)
    assert hard.picture is not None
    # Level back by level sent: what is quiet comes up, what is loud goes down.
    assert hard.picture["curves"][0]["points"] == [[-40.0, -34.0], [-20.0, -20.0], [0.0, -12.0]]
    assert [(one.code, one.numbers["ms"]) for one in fast.told] == [
        ("before_pick", 4.0), ("after_pick", 40.0), ("release", 300.0),
    ]  # fmt: skip
    left, hiss, blend = kept.told
    assert (left.code, left.numbers["percent"], left.numbers["most"]) == ("kept", 30.0, 100.0)
    assert (hiss.code, hiss.numbers["db"]) == ("noise_up", 9.0)
    assert (blend.code, blend.numbers["by"]) == ("lowers", pytest.approx(70.0))
    assert kept.figures[0]["text"] == "30 %"
    assert clean.key == "clean"


def test_what_cannot_be_told_of_a_compressor_is_said() -> None:
    hard, fast, kept, _ = four_questions([HALF], [BLEND])
    assert codes(hard) == ["no_single_slope"]
    assert [one.lacking and one.lacking.code for one in (hard, kept)] == ["one_setting", "too_few_positions"]
    still = replace(HALF, results=results({"gain_db": 6.0, "compressor": {"dynamics_kept_percent": 90.0}}))
    timed = four_questions([still], [BLEND])[1].lacking
    assert timed is not None
    assert timed.code == "not_timed"
    quiet = replace(HALF, results=results(HALF.results.readings | {"noise_up_db": 1.0}))
    assert codes(four_questions([quiet], [])[2]) == ["kept"]
    assert "after_pick" not in codes(fast)


@pytest.mark.parametrize(("percent", "only"), [(None, True), (1.0, True), (20.0, False)])
def test_what_bends_the_wave_is_a_drive(percent: float | None, only: bool) -> None:
    readings = FULL.results.readings | ({} if percent is None else {"thd_max_percent": percent})
    probes = [replace(FULL, results=results(readings)), DRY]
    assert squeezes_only(probes) is only
    assert (four_questions(probes, [])[0].key == "squeeze") is only
    assert not squeezes_only([DRY])
