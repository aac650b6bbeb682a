"""Readings from sweeps."""

from __future__ import annotations

import numpy as np

from cata.core.measure.device import bands, responses, sweeps
from cata.core.measure.device.loopback import Loop, read_sweeps
from cata.core.measure.device.report import Report, points
from cata.core.measure.device.returned import Returned, Sent
from cata.core.measure.outcome import Number, Outcome, measured, refused
from cata.core.measure.pickup import fit_resonance
from cata.said import said

DROWNED = said("noise", "what comes back there drowns in the noise")
NO_SWEEP = said("noise", "the sweeps do not stand out of the noise")
AGAINST_FILE = said("interface_in_it", "against the file: the interface's own response is in it")


def put_sweeps(report: Report, answer: Returned, file: Sent, loop: Loop | None) -> None:
    """Response, colour, low end, overtones and polarity, where the part holds sweeps."""
    if not file.plan.of("sweep"):
        return
    swept = read_sweeps(answer, file)
    if not swept:
        for key in ("response_db", "transparency_db", "low_end_loss_db", "harmonics_db", "polarity"):
            report.put(key, refused(NO_SWEEP))
        return
    best, doubt = responses.most_linear(swept)
    bypass = loop.swept if loop else None
    change = responses.change_db(best, bypass)
    flag = doubt or (None if bypass else AGAINST_FILE)
    heard = responses.heard(best) & (responses.heard(bypass) if bypass else True)
    report.put_parts(
        "response_db",
        {
            name: measured(round(float(value), 4)) if clear else refused(DROWNED)
            for name, value, clear in zip(sweeps.NAMES, change, heard, strict=True)
        },
        flag,
    )
    for key, bands_of, reading in (
        ("transparency_db", (sweeps.TONE_BANDS,), responses.transparency_db),
        ("low_end_loss_db", (sweeps.MIDDLE, sweeps.LOW), responses.low_end_loss_db),
    ):
        whole = all(heard[part].all() for part in bands_of)
        report.put(key, measured(reading(change), flag) if whole else refused(DROWNED))
    sign = responses.polarity(best)
    if loop and isinstance(sign.value, int):
        sign = measured(sign.value * loop.polarity)
    report.put("polarity", sign)

    def once(rng: np.random.Generator) -> dict[str, float | None]:
        # Which sweep is taken is itself a matter of noise.
        again = responses.change_db(responses.most_linear([one.again(rng) for one in swept])[0], bypass)
        parts: dict[str, float | None] = {
            f"response_db.{name}": float(v) for name, v in zip(sweeps.NAMES, again, strict=True)
        }
        return parts | {
            "transparency_db": responses.transparency_db(again),
            "low_end_loss_db": responses.low_end_loss_db(again),
        }

    report.add_bands(bands.draws(once, 24))
    report.put("resonance", _resonance(best, bypass))
    report.pictures["response"] = points(np.array(sweeps.CENTRES_HZ)[heard], change[heard])
    _overtones(report, file, swept)


def _resonance(best: sweeps.Swept, bypass: sweeps.Swept | None) -> Outcome:
    """The resonance of a coil with its load; only against a flat reference."""
    if bypass is None:
        return refused(
            said(
                "no_flat_reference",
                "no flat reference: record a loop-back (for a pickup: the sweep coil over a plain wire loop)",
            )
        )
    inside = (sweeps.HZ > 100.0) & (sweeps.HZ < 15_000.0)
    ratio = np.abs(best.responses[0][inside]) / np.maximum(np.abs(bypass.responses[0][inside]), 1e-9)
    return fit_resonance(sweeps.HZ[inside], 20 * np.log10(np.maximum(ratio, 1e-9)))


def _overtones(report: Report, file: Sent, swept: list[sweeps.Swept]) -> None:
    """Overtones of the loudest sweep, parts named "order.third octave"."""
    loudest = max(swept, key=lambda one: one.level_dbfs)
    level = loudest.level_dbfs
    parts: dict[str, Number | str | None] = {}
    for order in range(2, sweeps.HARMONICS + 1):
        found = loudest.harmonic_db(order)
        parts |= {f"{order}.{name}": round(value, 3) for name, value in found.items()}
        if found:
            report.pictures[f"overtone {order} by pitch"] = [
                (centre, found[name])
                for name, centre in zip(sweeps.NAMES, sweeps.CENTRES_HZ, strict=True)
                if name in found
            ]
    if parts:
        report.put("harmonics_db", measured(parts, said("at_level", "at {level_dbfs:.0f} dBFS", level_dbfs=level)))
    else:
        why = said("noise", "no overtone stands clear of the noise at {level_dbfs:.0f} dBFS", level_dbfs=level)
        report.put("harmonics_db", refused(why))
