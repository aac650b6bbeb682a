"""A bed made ready to play, and how well takes are heard through it."""

from __future__ import annotations

from dataclasses import dataclass

from cata.core.together.in_the_mix import CutThrough, cut_through
from cata.core.together.stems import Stem, mixed
from cata.media.decode import Limits, decode
from cata.tasks.desk import Desk
from cata.tasks.listening import for_listening
from cata.tasks.shape import Task

MOST_S = 900.0


@dataclass(frozen=True)
class ToLay:
    """A recording, and where its listening copy goes."""

    file: str
    copy: str


@dataclass(frozen=True)
class Laid:
    """What playing a bed needs: its loudness in LUFS, and the gain that undoes the scaling of its copy."""

    loudness_lufs: float | None
    copy_gain_db: float


def lay(bed: ToLay, desk: Desk) -> Laid:
    """Write a bed's listening copy and measure how loud it is. BadAudio where the file cannot be used."""
    with desk.reading(bed.file) as path:
        clip = decode(path, Limits(max_duration_s=MOST_S)).clip
    found = for_listening(clip, bed.copy, desk)
    loudness = found["loudness_lufs"]
    return Laid(loudness if isinstance(loudness, float) else None, found["copy_gain_db"])


@dataclass(frozen=True)
class ToMix:
    """Recordings with their levels in dB and sides, and where the listening copy of all together goes."""

    stems: tuple[tuple[str, float, float], ...]
    copy: str


@dataclass(frozen=True)
class Mixed(Laid):
    """What playing laid stems needs, and how long they are."""

    duration_s: float


def mix(wish: ToMix, desk: Desk) -> Mixed:
    """Lay stems together and write their listening copy. BadAudio where a file cannot be used."""
    stems = []
    for file, gain_db, side in wish.stems:
        with desk.reading(file) as path:
            stems.append(Stem(decode(path, Limits(max_duration_s=MOST_S)).clip, gain_db, side))
    found = for_listening(mixed(stems), wish.copy, desk)
    loudness = found["loudness_lufs"]
    return Mixed(loudness if isinstance(loudness, float) else None, found["copy_gain_db"], found["duration_s"])


@dataclass(frozen=True)
class ToCut:
    """Listening copies of a take and a bed, and what the take is raised by against the bed, in dB."""

    take: str
    bed: str
    gain_db: float


def cut(pair: ToCut, desk: Desk) -> CutThrough | None:
    """How well a take is heard; None where it is silent."""
    with desk.reading(pair.take) as take, desk.reading(pair.bed) as bed:
        return cut_through(decode(take).clip, decode(bed, Limits(max_duration_s=MOST_S)).clip, pair.gain_db)


LAY = Task("bed", lay, limit_s=120)
MIX = Task("stems", mix, limit_s=300)
CUT = Task("cut-through", cut, limit_s=120)
