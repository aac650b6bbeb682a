"""Readings from chords, playing and bursts."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from cata.core.clip import ANALYSIS_RATE_HZ, Clip
from cata.core.measure.device import bands, chords, compressor, played, steady, stepped, sweeps
from cata.core.measure.device.report import Report, points
from cata.core.measure.device.returned import Returned, Sent
from cata.core.measure.dynamics import low_tightness_ms
from cata.core.measure.material import Material
from cata.core.measure.outcome import Number, Outcome, measured, refused
from cata.core.measure.tone import harshness_db
from cata.core.signals.testfile.layout import Section
from cata.core.signals.testfile.waves import wave
from cata.said import Said, said

MUTED_FROM_S = 1.1
"""Where the muted strokes of a ladder step begin."""
CLARITY_AT = "third-12"
FROM_PLAYING = said("from_playing", "from playing: the sweep says more")
BREAKS_UP = said("breaks_up", "from playing, taken while it breaks up: even the softest strokes distort")
DRY_PATH = said("dry_path", "of the squeezed path alone; a dry one runs beside it")
NO_BURSTS = said("no_bursts", "this part holds no bursts")
CHORD_KEYS = {"third-24": "soft third", "third-12": "third", "fifth-12": "fifth", "triad-12": "triad"}


def put_chords(report: Report, answer: Returned) -> None:
    """Chord dirt, where the part holds chords."""
    sections = answer.plan.of("chord")
    if not sections:
        return
    quiet = steady.silence(answer)
    density = sweeps.noise_density(quiet)
    parts: dict[str, Outcome] = {}
    known: dict[str, float] = {}
    for section in sections:
        lines = chords.read_chord(answer, section, density, sweeps.HZ, len(quiet) / ANALYSIS_RATE_HZ)
        outcome = chords.clarity_db(lines)
        parts[CHORD_KEYS[section.key]] = outcome
        keys = [f"chords_db.{CHORD_KEYS[section.key]}"]
        if section.key == CLARITY_AT:
            report.put("chord_clarity_db", outcome)
            keys.append("chord_clarity_db")
        # A bound has no band: it is as far as the noise lets one see.
        if outcome.value is not None and not outcome.bound:
            known |= dict.fromkeys(keys, lines.band_db)
    report.put_parts("chords_db", parts)
    report.add_bands(known)


def put_played(report: Report, answer: Returned, file: Sent) -> None:
    """What the picking ladder shows, where the part holds it."""
    section = file.plan.named("ladder")
    if section is None:
        return
    found = played.read_played(answer, section, float(np.var(steady.silence(answer))), file.level_db)
    other = played.no_clipper(found, played.slate_thd(answer))
    report.put_parts(
        "played_breakup_dbfs",
        {str(p): refused(other) if other else played.onset_dbfs(found, p) for p in played.ONSETS_PERCENT},
    )
    clear = found.dirt_db > found.noise_db - played.NOISE_MARGIN_DB
    report.pictures["dirt in playing"] = points(
        found.levels_dbfs[clear], np.maximum(found.dirt_db[clear], played.OWN_FLOOR_DB)
    )
    own, dry = _hardest(answer, section)
    sharp, reference = harshness_db(Material(own)), harshness_db(Material(dry))
    if isinstance(sharp.value, float) and isinstance(reference.value, float):
        report.put("harshness_db", measured(sharp.value - reference.value, sharp.flag))
    else:
        report.put("harshness_db", sharp)
    report.put("sustain_db", played.sustain_db(own, dry, float(np.var(steady.silence(answer)))))
    if not file.plan.of("sweep") and other == played.FOLLOWS:
        # The softest steps have another response than the next.
        report.put("response_db", refused(played.FOLLOWS))
        report.put("low_end_loss_db", refused(played.FOLLOWS))
    elif not file.plan.of("sweep"):
        _put_response(report, answer, section, found)
    report.put("low_tightness_ms", low_tightness_ms(Material(own.cut(round(MUTED_FROM_S * own.rate_hz), own.length))))


def _put_response(report: Report, answer: Returned, section: Section, steps: played.Played) -> None:
    """Response and low end from the softest steps: the weaker grade, where the part holds no sweep."""
    found = played.response_db(answer, section)
    known: dict[str, Number | str | None] = {name: round(value, 3) for name, value in found.items()}
    flag = FROM_PLAYING
    if steps.dirt_db[: played.REFERENCE_STEPS].max() > played.CLEAN_DB:
        flag = BREAKS_UP
    report.put("response_db", measured(known, flag), evidence="re-amped")
    loss = played.low_end_loss_db(found)
    report.put("low_end_loss_db", replace(loss, flag=flag), evidence="re-amped")
    report.pictures["response"] = [(float(name), value) for name, value in found.items()]


def _hardest(answer: Returned, section: Section) -> tuple[Clip, Clip]:
    """The last step of the ladder as it came back and as it was sent."""
    step = round(section.step_s * ANALYSIS_RATE_HZ)
    at = (len(section.levels_dbfs) - 1) * section.step_s
    own = answer.cut(section.start_s + at, step)
    dry = wave(section, ANALYSIS_RATE_HZ)[-step:]
    return Clip.of(own, ANALYSIS_RATE_HZ), Clip.of(dry, ANALYSIS_RATE_HZ)


def put_compressor(report: Report, answer: Returned, file: Sent, nominal: float) -> None:
    """The static curve and the times of a compressor, under the parts of one reading."""
    parts: dict[str, Outcome] = {}
    known: dict[str, float] = {}
    tones_at, bursts_at = file.plan.named("tones-main"), file.plan.named("bursts")
    if tones_at is not None:
        ladder, _ = stepped.read_settled(answer, tones_at, file.level_db)
        static = compressor.fit_static(ladder)
        if isinstance(static, Said):
            # A dry path beside it leaves no single slope, and still a share of dynamics and times of its own.
            if static.code != "no_single_slope":
                report.put("compressor", refused(static))
                return
            parts = dict.fromkeys(("threshold_dbfs", "ratio", "knee_db"), refused(static))
            report.put("noise_up_db", refused(static))
        else:
            beside = DRY_PATH if static.dry else None
            parts = {
                "threshold_dbfs": measured(static.threshold_dbfs, beside),
                "ratio": measured(static.ratio, beside),
                "knee_db": measured(static.knee_db, beside),
                "dry_percent": measured(100 * static.dry),
            }
            at_nominal = float(np.interp(nominal, ladder.levels_dbfs, ladder.gain_db))
            report.put("noise_up_db", measured(static.gain_db - at_nominal))
            known = _compressor_bands(ladder, static)
        parts["dynamics_kept_percent"] = compressor.dynamics_kept(ladder)
    if bursts_at is not None:
        times = compressor.burst_times(answer, bursts_at, float(np.var(steady.silence(answer))))
        if times.track:
            report.pictures["burst"] = list(times.track)
        for key, value in (("attack_ms", times.attack_ms), ("release_ms", times.release_ms)):
            parts[key] = refused(value) if isinstance(value, Said) else measured(value)
    if parts:
        report.put_parts("compressor", parts)
    else:
        report.put("compressor", refused(NO_BURSTS))
    report.add_bands(known)


def _compressor_bands(ladder: stepped.Ladder, static: compressor.Static) -> dict[str, float]:
    def once(rng: np.random.Generator) -> dict[str, float | None]:
        again = compressor.fit_static(ladder.again(rng), near=static)
        if isinstance(again, Said):
            return {}
        return {
            "compressor.threshold_dbfs": again.threshold_dbfs,
            "compressor.ratio": again.ratio,
            "compressor.knee_db": again.knee_db,
            "compressor.dry_percent": 100 * again.dry,
        }

    return bands.draws(once, 16)
