"""The recording that came back: which file was sent, where it begins, how fast its clock ran, which way up it is.

Everything that would make a reading wrong is refused here, before any reading is taken.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import soxr

from cata.core.capture.slates import SEARCH_RATE_HZ, FoundSlate, find_slates
from cata.core.clip import ANALYSIS_RATE_HZ, Audio, Clip
from cata.core.measure.clipping import clipped, overdriven
from cata.core.measure.material import Material, db
from cata.core.resample import to_rate
from cata.core.signals import slate
from cata.core.signals.testfile.layout import LEAD_S, Layout, PartName, Section, layout, part_of
from cata.core.signals.testfile.waves import sent_file
from cata.errors import Refused
from cata.said import Said, said

SAME_DB, SILENT_DB = -25.0, -40.0
CHANGED_DB = -50.0
MAX_CLOCK_PPM = 2000.0
NEGLIGIBLE_PPM = 0.2
NEAR_FULL_SCALE = 0.98
"""Flat tops up here are the recorder's: some converters and drivers stop a little short of the largest code."""
MARGIN_S = 0.25
NO_SLATE = said(
    "no_slate",
    "no slate found: this is not the answer to a test file, or too faint against its noise, or the device leaves "
    "nothing of a note's own pitch, as an octave alone does",
)
HEAD_S = 10.0
"""Where the opening slate of a file as sent is looked for."""
Floats = npt.NDArray[np.float64]


def slate_of_a_take(take: int) -> Said:
    """Why a recording of a take is no measurement."""
    return said(
        "slate_of_a_take", "wrong file: it carries the slate of take {take}, not that of a test file", take=take
    )


class Unusable(Refused):
    """A file gives no readings at all; the message says why."""


@dataclass(frozen=True)
class Sent:
    """The test file as sent: its plan, its rate, and its level in dB against the file as it was written."""

    plan: Layout
    rate_hz: int
    level_db: float
    opening_s: float


@dataclass(frozen=True)
class Returned:
    """The recording on the clock of the file: ``signal`` (samples,) at 48 kHz, 0.25 s before the opening slate first.

    ``delay_s`` is how much later than in the file the opening slate lies; ``clock_ppm`` how much faster the
    recording ran (positive: the file's seconds came back long); ``notes`` what was done to get it.
    """

    plan: Layout
    signal: Audio
    delay_s: float
    clock_ppm: float
    notes: tuple[Said, ...]

    def cut(self, start_s: float, length: int) -> Floats:
        """So many samples from a time after the opening slate, as float64; zeros beyond the recording."""
        first = round((start_s + MARGIN_S) * ANALYSIS_RATE_HZ)
        part = self.signal[max(first, 0) : max(first + length, 0)].astype(np.float64)
        return np.pad(part, (max(-first, 0), max(0, length - len(part) - max(-first, 0))))

    def section(self, section: Section, extra_s: float = 0.0) -> Floats:
        """A whole section and a little after it."""
        return self.cut(section.start_s, round((section.length_s + extra_s) * ANALYSIS_RATE_HZ))


def slates_in(clip: Clip) -> list[FoundSlate]:
    """Every readable slate of a recording."""
    low = to_rate(Clip.of(clip.carrier, clip.rate_hz), SEARCH_RATE_HZ).samples[0]
    return find_slates(low, lambda a, b: clip.cut(round(a * clip.rate_hz), round(b * clip.rate_hz)))


def read_sent(clip: Clip) -> Sent:
    """Which test file this is. Unusable where it is none, or was changed since it was written."""
    one, _ = one_channel(clip, "the file sent")
    beginning = one.cut(0, round(HEAD_S * one.rate_hz))
    opening = next((f for f in slates_in(beginning) if part_of(f.mark.take) and not f.mark.closes), None)
    part = part_of(opening.mark.take) if opening else None
    if opening is None or part is None:
        raise Unusable("the file sent is not a test file: no opening slate of one was found in it", "no_test_file")
    plan = layout(part)
    expected = sent_file(part, one.rate_hz).samples[0]
    first = round((opening.start_s - LEAD_S) * one.rate_hz)
    have = one.samples[0][max(first, 0) :]
    want = expected[max(-first, 0) :][: len(have)]
    have = have[: len(want)]
    if len(have) < (plan.closing_s + slate.LENGTH_S) * one.rate_hz:
        raise Unusable("the file sent ends before its closing slate", "sent_cut")
    gain = float(np.dot(have, want) / np.dot(want, want))
    rest = have - np.float32(gain) * want
    if gain <= 0 or np.dot(rest, rest) > 10 ** (CHANGED_DB / 10) * float(np.dot(have, have)):
        raise Unusable("the file sent was changed since it was written: write it again and send that", "sent_changed")
    return Sent(plan, one.rate_hz, 20 * float(np.log10(gain)), opening.start_s)


def as_written(part: PartName, rate_hz: int = ANALYSIS_RATE_HZ) -> Sent:
    """The test file that nobody touched since it was written: what the application itself handed out."""
    return Sent(layout(part), rate_hz, 0.0, LEAD_S)


def one_channel(clip: Clip, what: str = "the recording") -> tuple[Clip, tuple[Said, ...]]:
    """The channel that carries the answer, and a note where there was a choice.

    Unusable for two different channels: nobody but the person knows which one is the device.
    """
    planes = clip.distinct
    if planes.shape[0] == 1:
        return Clip(planes, clip.rate_hz), ()
    power = [float(np.dot(plane, plane)) for plane in planes]
    strong, weak = (0, 1) if power[0] >= power[1] else (1, 0)
    if power[weak] <= 10 ** (SILENT_DB / 10) * power[strong]:
        return Clip(planes[strong : strong + 1], clip.rate_hz), (
            said("one_live_channel", "only channel {channel} carries a signal", channel=strong + 1),
        )
    gain = float(np.dot(planes[weak], planes[strong])) / power[strong]
    rest = planes[weak] - np.float32(gain) * planes[strong]
    if float(np.dot(rest, rest)) > 10 ** (SAME_DB / 10) * power[weak]:
        raise Unusable(
            f"{what} has two different channels: record the device alone, on one, or pick the channel", "two_channels"
        )
    return Clip(planes[:1], clip.rate_hz), (Said("same_channels", "both channels carry the same; the first was taken"),)


def read_returned(clip: Clip, sent: Sent, channel: int | None = None) -> Returned:
    """The recording on the clock of the file. Unusable where no reading would be true.

    ``channel`` (0 or 1) says which one carries the device.
    """
    if channel is not None:
        if not 0 <= channel < clip.channels:
            raise Unusable(f"the recording has no channel {channel + 1}", "no_channel", channel=channel + 1)
        one, notes = one_channel(Clip(clip.samples[channel : channel + 1], clip.rate_hz))
    else:
        one, notes = one_channel(clip)
    if not np.all(np.isfinite(one.samples)):
        raise Unusable("the recording holds values that are no numbers", "no_numbers")
    kind = clipped(Material(one)).value
    if isinstance(kind, dict) and (kind["kind"] == "clipped" or (kind["runs"] and _peak(one) >= NEAR_FULL_SCALE)):
        raise Unusable.of(overdriven(kind))
    opening, closing = _pair(slates_in(one), sent, one.duration_s)
    span = closing.start_s - opening.start_s
    ratio = span / sent.plan.closing_s
    ppm = (ratio - 1) * 1e6
    if abs(ppm) > MAX_CLOCK_PPM:
        off_s = span - sent.plan.closing_s
        raise Unusable(
            f"between its slates the recording is {off_s:+.2f} s off: it was cut, or stretched", "cut", off_s=off_s
        )
    signal = _on_the_clock(one, opening.start_s, ratio)
    # What a converter adds to everything is no answer of the device.
    quiet = sent.plan.of("noise")[0]
    first, last = (round((MARGIN_S + at) * ANALYSIS_RATE_HZ) for at in (quiet.start_s, quiet.end_s))
    signal = signal - np.float32(np.mean(signal[first:last], dtype=np.float64))
    return Returned(sent.plan, signal, float(opening.start_s - sent.opening_s), float(ppm), notes)


def _peak(one: Clip) -> float:
    return max(max(high, -low) for high, low in one.extremes)


def _pair(found: list[FoundSlate], sent: Sent, length_s: float) -> tuple[FoundSlate, FoundSlate]:
    """The opening and closing slates of the file that was sent."""
    mine = [one for one in found if one.mark.take == sent.plan.mark]
    opening = next((one for one in mine if not one.mark.closes), None)
    closing = next((one for one in reversed(mine) if one.mark.closes), None)
    if opening and closing and closing.start_s > opening.start_s:
        return opening, closing
    other = next((p for one in found if (p := part_of(one.mark.take)) and p != sent.plan.part), None)
    if other:
        raise Unusable(
            f"wrong file: this is the recording of the part “{other}”, not of “{sent.plan.part}”", "other_part"
        )
    if found and not mine:
        raise Unusable.of(slate_of_a_take(found[0].mark.take))
    if opening:
        raise Unusable(
            "no closing slate: the recording stops before the end of the file, or its end is buried in noise",
            "no_closing_slate",
        )
    if closing:
        raise Unusable("no opening slate: the recording began after the file did", "no_opening_slate")
    if length_s < sent.plan.closing_s:
        raise Unusable("no slate found: the recording is shorter than the file", "shorter_than_file")
    raise Unusable.of(NO_SLATE)


def _on_the_clock(one: Clip, opening_s: float, ratio: float) -> Audio:
    """The recording at 48 kHz of the file's clock, from 0.25 s before its opening slate."""
    first = (opening_s - MARGIN_S * ratio) * one.rate_hz
    whole = int(np.floor(first))
    samples = one.samples[0][max(whole, 0) :]
    if whole < 0:
        samples = np.pad(samples, (-whole, 0))
    if one.rate_hz == ANALYSIS_RATE_HZ and abs(ratio - 1) * 1e6 < NEGLIGIBLE_PPM:
        return np.ascontiguousarray(samples)
    out = soxr.resample(samples, one.rate_hz * ratio, float(ANALYSIS_RATE_HZ), quality="VHQ")
    return np.asarray(out, dtype=np.float32)


def level_db(samples: Floats) -> float:
    """RMS of a stretch in dBFS."""
    return float(db(np.mean(np.square(samples)) if len(samples) else 0.0))
