"""Readings from stepped tones."""

from __future__ import annotations

import numpy as np

from cata.core.measure.device import bands, character, stepped, tones
from cata.core.measure.device.loopback import Loop
from cata.core.measure.device.report import Points, Report, number, points
from cata.core.measure.device.returned import Returned, Sent
from cata.core.measure.outcome import Outcome, measured, refused
from cata.core.measure.results import NOT_MEASURED
from cata.core.signals.testfile.layout import PITCH_PERIODS
from cata.said import said

STATED_DBFS = tuple(float(level) for level in range(-60, 1, 6))
SINE_CREST_DB = 3.01
STRANGE = 0.003
INTERFACE_CLEAR = 2.0
"""A device's distortion counts where it is twice what the interface alone shows."""
NO_LOOP = said("interface_in_it", "the interface's own gain is in it: measure a loop-back to take it out")
AT_LOWEST = said("at_lowest", "already broken up at the lowest level that can be judged")


def put_tones(report: Report, answer: Returned, file: Sent, loop: Loop | None, nominal: float) -> None:
    """Gain, breakup and what follows from them, where the part holds stepped tones."""
    section = file.plan.named("tones-main")
    if section is None:
        return
    ladder, back_s = stepped.read_settled(answer, section, file.level_db)
    found = tone_readings(ladder, nominal)
    _bound_by_interface(found, ladder, loop)
    offset = loop.gain_db if loop and loop.gain_db is not None else None
    gain = found.pop("gain_db")
    if isinstance(gain.value, float):
        value = gain.value - (offset or 0.0)
        gain = measured(value, gain.flag if offset is not None else gain.flag or NO_LOOP)
    if back_s:
        report.notes.append(
            said("lets_go", "its gain comes back slowly after a loud sound, 63 % in {back_s:.1f} s: taken out of the "
                 "gain and of what the tones tell", back_s=back_s)
        )  # fmt: skip
    report.put("gain_db", gain)
    onsets = {str(p): found.pop(f"breakup_dbfs.{p}") for p in tones.ONSETS_PERCENT}
    report.put_parts("breakup_dbfs", onsets)
    for key, outcome in found.items():
        report.put(key, outcome)
    thd, doubt = ladder.thd, ladder.thd_doubt
    report.put("thd_max_percent", _thd_at(ladder, float(ladder.levels_dbfs[-1])))
    report.put_parts("thd_percent", {f"{level:.0f}": _thd_at(ladder, level) for level in STATED_DBFS})
    words = "distortion counts harmonics 2 to {harmonics} of {hz:.1f} Hz"
    report.notes.append(said("harmonics_counted", words, harmonics=ladder.harmonics, hz=ladder.hz))
    _noise_below(report, ladder, nominal)
    report.add_bands(tone_bands(ladder, nominal))
    sure = thd > 2 * doubt
    report.pictures["distortion"] = points(ladder.levels_dbfs[sure], 100 * thd[sure])
    report.pictures["gain"] = points(ladder.levels_dbfs, ladder.gain_db - (offset or 0.0))
    for order in range(2, 6):
        power = np.abs(ladder.lines[:, order - 1]) ** 2 - ladder.noise[:, order - 1]
        clear = power > 8 * ladder.noise[:, order - 1]
        ratio = 10 * np.log10(np.maximum(power, 1e-20)) - 20 * np.log10(np.abs(ladder.lines[:, 0]) + 1e-12)
        report.pictures[f"overtone {order}"] = points(ladder.levels_dbfs[clear], ratio[clear])
    _by_pitch(report, answer, file)


def _noise_below(report: Report, ladder: stepped.Ladder, nominal: float) -> None:
    known = report.results["noise_dbfs"]
    noise = number(known)
    if noise is None:
        report.put("noise_below_db", known)
        return
    out = float(np.interp(nominal, ladder.levels_dbfs, ladder.gain_db + ladder.levels_dbfs)) - SINE_CREST_DB
    report.put("noise_below_db", measured(out - noise), band=known.band)


def _thd_at(ladder: stepped.Ladder, level: float) -> Outcome:
    step = int(np.argmin(np.abs(ladder.levels_dbfs - level)))
    if abs(ladder.levels_dbfs[step] - level) > 1.0:
        return refused(said("not_sent", "not sent"))
    thd, doubt = float(ladder.thd[step]), float(ladder.thd_doubt[step])
    strange = float(ladder.inharmonic[step])
    heard = strange > max(tones.INHARMONIC_SHARE * thd, STRANGE)
    flag = tones.inharmonic(100 * strange, level) if heard else None
    if thd < tones.SURE * doubt:
        if flag:
            return refused(flag)
        return refused(
            said("noise", "under {percent:.2g} %, which noise could feign", percent=100 * max(tones.SURE * doubt, thd))
        )
    return measured(100 * thd, flag)


def tone_readings(ladder: stepped.Ladder, nominal: float) -> dict[str, Outcome]:
    """Every reading of one stepped tone, parts of breakup under their own keys."""
    found: dict[str, Outcome] = {"gain_db": tones.small_signal_db(ladder)}
    onsets = {percent: tones.onset_dbfs(ladder, percent) for percent in tones.ONSETS_PERCENT}
    for percent, onset in onsets.items():
        found[f"breakup_dbfs.{percent}"] = onset
    three = onsets[3]
    if isinstance(three.value, float):
        found["headroom_db"] = measured(three.value - nominal, three.flag, three.bound)
        found["slope_above_db_per_db"] = (
            refused(AT_LOWEST) if three.bound else character.slope_above(ladder, three.value)
        )
        found["even_odd_db"] = character.even_odd_db(ladder, three.value)
    else:
        for key in ("headroom_db", "slope_above_db_per_db", "even_odd_db"):
            found[key] = refused(three.refusal or NOT_MEASURED)
    gain = found["gain_db"].value
    found["p1db_dbfs"] = (
        tones.p1db_dbfs(ladder, gain)
        if isinstance(gain, float)
        else refused(said("no_gain", "without a small-signal gain"))
    )
    found["knee_db"] = _knee(onsets[1], onsets[10])
    found["touch_db_per_db"] = character.touch(ladder, nominal)
    return found


def _knee(one: Outcome, ten: Outcome) -> Outcome:
    if not isinstance(one.value, float) or not isinstance(ten.value, float):
        return refused((one if one.value is None else ten).refusal or NOT_MEASURED)
    if one.bound or ten.bound:
        return refused(AT_LOWEST)
    return measured(ten.value - one.value)


def tone_bands(ladder: stepped.Ladder, nominal: float) -> dict[str, float]:
    """Bands of :func:`tone_readings`, by key."""

    def once(rng: np.random.Generator) -> dict[str, float | None]:
        noisy = ladder.again(rng)
        found = {
            key: number(outcome) if outcome.bound is None else None
            for key, outcome in tone_readings(noisy, nominal).items()
        }
        return found | {"thd_max_percent": 100 * float(noisy.thd[-1])}

    return bands.draws(once)


def _bound_by_interface(found: dict[str, Outcome], ladder: stepped.Ladder, loop: Loop | None) -> None:
    """What the interface distorts by itself is no property of the device."""
    if loop is None or loop.thd is None or len(loop.thd) != len(ladder.levels_dbfs):
        return
    for percent in tones.ONSETS_PERCENT:
        onset = found[f"breakup_dbfs.{percent}"].value
        if isinstance(onset, float):
            own = float(np.interp(onset, ladder.levels_dbfs, loop.thd))
            if own * INTERFACE_CLEAR > percent / 100:
                found[f"breakup_dbfs.{percent}"] = refused(
                    said(
                        "interface_distorts", "the interface alone distorts by {percent:.1g} % there", percent=100 * own
                    )
                )


def _by_pitch(report: Report, answer: Returned, file: Sent) -> None:
    """The 3 % onset, and where the gain has fallen by 1 dB, at each pitch."""
    onsets: Points = []
    given_way: Points = []
    for name in PITCH_PERIODS:
        section = file.plan.named(f"tones-{name}")
        if section is None:
            continue
        ladder, _ = stepped.read_settled(answer, section, file.level_db)
        onset = number(tones.onset_dbfs(ladder, 3))
        if onset is not None:
            onsets.append((ladder.hz, onset))
        gain = number(tones.small_signal_db(ladder))
        point = number(tones.p1db_dbfs(ladder, gain)) if gain is not None else None
        if point is not None:
            given_way.append((ladder.hz, point))
    report.pictures["breakup by pitch"] = onsets
    report.pictures["compression by pitch"] = given_way
