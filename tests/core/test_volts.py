"""Volts at a device's input, from a data sheet or a meter."""

from __future__ import annotations

import pytest

from cata.core.evidence.compare import differences
from cata.core.evidence.probe import Probe, figure
from cata.core.measure.device.volts import in_volts, peak_volts, read_full_scale
from cata.core.measure.results import Result, Results
from cata.errors import Invalid


@pytest.mark.parametrize(
    ("text", "dbu"),
    [("+18 dBu", 18.0), ("0 dBV", 2.22), ("0.7746 V", 0.0), ("2,45 V rms", 10.0), ("775 mV", 0.0), ("−10 dBu", -10.0)],
)
def test_what_an_interface_sends_is_read_as_people_write_it(text: str, dbu: float) -> None:
    assert read_full_scale(text) == pytest.approx(dbu, abs=0.02)


@pytest.mark.parametrize("text", ["", "18", "loud", "18 dB", "0 V", "90 dBu", "1e9 V"])
def test_what_is_no_level_is_refused(text: str) -> None:
    with pytest.raises(Invalid):
        read_full_scale(text)


def test_volts_at_the_input_follow_from_both_levels() -> None:
    # A sine of 0 dBu is 0.775 V RMS, 1.095 V at its peak.
    assert peak_volts(0.0, 0.0) == pytest.approx(1.0954, abs=1e-4)
    assert peak_volts(-20.0, 20.0) == pytest.approx(1.0954, abs=1e-4)
    assert in_volts(-40.0, 0.0) == "11 mV peak"


def probe(breakup: float, full_scale: float | None) -> Probe:
    results = Results({"breakup_dbfs.3": Result(value=breakup, band=0.1, unit="dBFS")})
    results["breakup_dbfs"] = Result(value={"3": breakup}, unit="dBFS")
    return Probe(1, "", {}, results, full_scale_dbu=full_scale)


def test_a_breakup_is_told_in_volts_or_as_of_this_interface() -> None:
    told = [figure(probe(-14.0, level), "breakup_dbfs.3") for level in (None, 12.0)]
    assert [one["text"] for one in told if one] == [
        "−14.0 dBFS, by this interface",
        "−14.0 dBFS, 0.87 V peak at its input",
    ]


def test_what_two_interfaces_sent_is_evened_out_where_both_are_known() -> None:
    def breakup(first: Probe, second: Probe) -> str:
        found = {one.key: one.said.words for one in differences(first, second, ("one", "other"))}
        return found["breakup_dbfs.3"]

    # The same volts, at levels that differ by what the interfaces send.
    assert breakup(probe(-14.0, 12.0), probe(-20.0, 18.0)) == "no difference you can trust"
    assert "6.0 dB" in breakup(probe(-14.0, 12.0), probe(-20.0, 12.0))
    assert "6.0 dB" in breakup(probe(-14.0, None), probe(-20.0, 18.0))
