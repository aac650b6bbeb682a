"""The bench at work: takes on simulated gear, the file that is played out for re-amping, and measurements to
rehearse."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from cata.core.bench.amplifiers import AMPLIFIERS
from cata.core.bench.bed import backing_bed
from cata.core.bench.chain import ChainSettings, dry, record
from cata.core.bench.pedals import PEDALS
from cata.core.bench.pickups import PICKUPS, RATED_MM, placed, record_strings
from cata.core.bench.standin import pickup_for
from cata.core.clip import ANALYSIS_RATE_HZ, Audio, Clip
from cata.core.signals.phrase import PHRASES, open_strings, varied
from cata.core.signals.slate import SlateMark, slate
from cata.core.signals.testfile.layout import PartName
from cata.core.signals.testfile.waves import sent_file
from cata.errors import Conflict, Invalid
from cata.media.encode import write_wav
from cata.tasks.desk import Desk
from cata.tasks.shape import Task
from cata.tasks.takes import Facts

GAP_S = 0.4
BETWEEN_S = 1.0
REAMP_PEAK = 0.5
"""Half of full scale: 6 dB of room for what the interface adds."""
BENCH_SNR_DB, BENCH_PEAK_DBFS, BENCH_GAIN = 62.0, -8.0, 0.35
STRING_ROUNDS, STRING_NOISE_DBFS, STRING_GAIN, STRING_PLAYER = 3, -78.0, 0.4, 0.5


def noise(size: int, dbfs: float, seed: int) -> Audio:
    """White noise of an RMS in dBFS, shape (size,)."""
    return np.asarray(np.random.default_rng(seed).standard_normal(size) * 10 ** (dbfs / 20), dtype=np.float32)


def play_bed(out: str, desk: Desk) -> Facts:
    """Write the bench's backing bed as 24-bit WAV; its facts."""
    clip = backing_bed()
    with desk.writing(out) as path:
        write_wav(clip, path)
    return Facts(container="WAV", codec="PCM_24", rate_hz=clip.rate_hz, channels=clip.channels,
                 duration_s=clip.duration_s)  # fmt: skip


PLAY_BED = Task("play the bed", play_bed, limit_s=120)


@dataclass(frozen=True)
class ToPlay:
    """A chain of the bench, and the file it is recorded to."""

    chain: ChainSettings
    out: str
    evidence: str = "re-amped"


def play(wish: ToPlay, desk: Desk) -> Facts:
    """Play a chain on the bench and write it as 24-bit WAV; the facts of the take."""
    clip = record(wish.chain)
    with desk.writing(wish.out) as out:
        write_wav(clip, out)
    return Facts(
        container="WAV", codec="PCM_24", rate_hz=clip.rate_hz, channels=clip.channels, duration_s=clip.duration_s,
        evidence=wish.evidence,
    )  # fmt: skip


@dataclass(frozen=True)
class ToReamp:
    """(slate number, phrase) of each take, and the file to write."""

    parts: tuple[tuple[int, str], ...]
    out: str


def reamp(wish: ToReamp, desk: Desk) -> str:
    """Write slate, dry take and closing slate for each part as one mono 24-bit WAV file; its name.

    Conflict where there is no dry take of a phrase.
    """
    silence = np.zeros(round(GAP_S * ANALYSIS_RATE_HZ), dtype=np.float32)
    rest = np.zeros(round(BETWEEN_S * ANALYSIS_RATE_HZ), dtype=np.float32)
    takes: dict[str, Audio] = {}
    pieces = [rest]
    for number, phrase in wish.parts:
        if phrase not in PHRASES:
            raise Conflict(
                f"there is no dry take of “{phrase}”: record it, or choose one of the four phrases", "no_dry_take"
            )
        if phrase not in takes:
            wave = dry(ChainSettings(phrase=phrase))
            takes[phrase] = wave * np.float32(REAMP_PEAK / max(float(np.max(np.abs(wave))), 1e-9))
        opening, closing = (slate(SlateMark(number, closes)).samples[0] for closes in (False, True))
        pieces += [opening, silence, takes[phrase], silence, closing, rest]
    with desk.writing(wish.out) as out:
        write_wav(Clip.of(np.concatenate(pieces), ANALYSIS_RATE_HZ), out)
    return wish.out


@dataclass(frozen=True)
class ToMeasure:
    """A bench device at knob positions, the part of the test file that it gets, and the recording to write."""

    device: str
    settings: Mapping[str, float]
    part: PartName
    out: str
    seed: int


def measure(wish: ToMeasure, desk: Desk) -> str:
    """The test file through a bench device, with an interface's noise, latency and clock, as 24-bit WAV; its name.

    Invalid where the bench has no such device.
    """
    known = PEDALS | AMPLIFIERS
    if wish.device not in known:
        raise Invalid(f"the bench has no {wish.device!r}; it has {', '.join(known)}", "no_device")
    rng = np.random.default_rng(wish.seed)
    sent = np.pad(sent_file(wish.part).samples[0], (int(rng.uniform(2000, 9000)), 12_000))
    device = known[wish.device]
    if device.hiss_dbfs is not None:
        sent = sent + noise(len(sent), device.hiss_dbfs, wish.seed + 1)
    came_back = device.render(sent, wish.settings)
    loudest = max(float(np.max(np.abs(came_back))), 1e-6)
    hiss = rng.standard_normal(len(came_back)) * loudest / np.sqrt(2) * 10 ** (-BENCH_SNR_DB / 20)
    # The recorder's input is set once, for the strongest the device can give: a quieter setting stays quieter.
    scale = min(BENCH_GAIN, 10 ** (BENCH_PEAK_DBFS / 20) / loudest)
    with desk.writing(wish.out) as out:
        write_wav(Clip.of((came_back + hiss) * scale, ANALYSIS_RATE_HZ), out)
    return wish.out


@dataclass(frozen=True)
class ToPluck:
    """A pickup by its specification, how it stood (position, bass_mm, treble_mm), and the recording to write."""

    specs: Mapping[str, float | bool | str]
    made: Mapping[str, float | bool | str]
    out: str
    seed: int


def pluck(wish: ToPluck, desk: Desk) -> str:
    """Six open strings, three rounds, through the bench pickup nearest to a specification, as 24-bit WAV; its name."""
    coils, henry, kohm = (_number(wish.specs.get(key)) for key in ("coils", "inductance_h", "dc_resistance_kohm"))
    position = str(wish.made.get("position") or wish.specs.get("position") or "bridge")
    pickup = placed(PICKUPS[pickup_for(coils, henry, kohm)], position)
    phrase = varied(open_strings(rounds=STRING_ROUNDS), STRING_PLAYER, wish.seed)
    bass, treble = (_number(wish.made.get(side)) or RATED_MM for side in ("bass_mm", "treble_mm"))
    signal = record_strings(pickup, phrase, bass, treble, wish.seed) * np.float32(STRING_GAIN)
    heard = np.asarray(signal + noise(len(signal), STRING_NOISE_DBFS, wish.seed), dtype=np.float32)
    with desk.writing(wish.out) as out:
        write_wav(Clip.of(heard, ANALYSIS_RATE_HZ), out)
    return wish.out


def _number(value: float | bool | str | None) -> float | None:
    return float(value) if isinstance(value, int | float) else None


@dataclass(frozen=True)
class ToWrite:
    """A part of the test file, its rate in Hz, and the file to write."""

    part: PartName
    rate_hz: int
    as_float: bool
    out: str


def write_test_file(wish: ToWrite, desk: Desk) -> str:
    """Write a part of the test file as WAV; its name."""
    with desk.writing(wish.out) as out:
        write_wav(sent_file(wish.part, wish.rate_hz), out, "FLOAT" if wish.as_float else "PCM_24")
    return wish.out


PLAY = Task("play on the bench", play, limit_s=300)
REAMP = Task("write a file for re-amping", reamp, limit_s=300)
MEASURE = Task("measure on the bench", measure, limit_s=900)
PLUCK = Task("pluck strings on the bench", pluck, limit_s=300)
WRITE_TEST_FILE = Task("write the test file", write_test_file, limit_s=120)
