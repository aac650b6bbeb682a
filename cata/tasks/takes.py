"""Takes: what a received file is, and all its readings."""

from __future__ import annotations

from dataclasses import dataclass, field

from cata.core.match.features import Features, features_of, write_features
from cata.core.measure.analysis import analyse_material
from cata.core.measure.material import Material
from cata.core.measure.results import Results
from cata.core.peaks import chart_spectrum, outline
from cata.errors import BadAudio
from cata.media import decode as media
from cata.media.decode import Limits, decode
from cata.media.encode import write_listening_copy
from cata.tasks.desk import Desk
from cata.tasks.shape import Task


@dataclass(frozen=True)
class Look:
    """A file of the data directory, and how long a recording may be; ``sounding``: nothing but zeros is none."""

    file: str
    max_duration_s: float
    sounding: bool = False


@dataclass(frozen=True, kw_only=True)
class Facts:
    """What a sound file is, as its content says; ``notes`` are doubts about it, ``evidence`` how it was made."""

    container: str
    codec: str
    rate_hz: int
    channels: int
    duration_s: float
    lossy: bool = False
    notes: list[str] = field(default_factory=list)
    evidence: str = "played"


def inspect(look: Look, desk: Desk) -> Facts:
    """What a file is; BadAudio where it cannot be used."""
    with desk.reading(look.file) as path:
        found = media.look(path, Limits(max_duration_s=look.max_duration_s))
    if look.sounding and found.peak == 0.0:
        raise BadAudio("silent", "nothing is on this recording, every sample is zero: check the cable and the input")
    return Facts(
        container=found.container,
        codec=found.codec,
        lossy=found.lossy,
        rate_hz=found.rate_hz,
        channels=found.channels,
        duration_s=found.frames / found.rate_hz,
        notes=[note.words for note in found.notes],
    )


def keep_features(features: Features, name: str, desk: Desk) -> None:
    """Write the features of a take."""
    with desk.writing(name) as path, path.open("wb") as file:
        write_features(features, file)


@dataclass(frozen=True)
class ToAnalyse:
    """A recording, where its listening copy and its features go, and the declared silence before the playing.

    ``keys`` are the readings that are wanted where all else is known; None for everything.
    """

    file: str
    copy: str
    features: str
    lead_in_s: float = 0.0
    keys: tuple[str, ...] | None = None


@dataclass(frozen=True)
class Drawn:
    """What lanes and charts need: the gain that undoes the scaling of the listening copy, outline and spectrum."""

    copy_gain_db: float
    outline: list[float]
    spectrum: list[float | None]


@dataclass(frozen=True)
class Analysed:
    """The readings of a take that were wanted, and what is drawn of it where all were."""

    results: Results
    drawn: Drawn | None


def analyse(take: ToAnalyse, desk: Desk) -> Analysed:
    """Read a take and write its listening copy and features, unless only some readings are wanted.

    BadAudio where the file cannot be used.
    """
    with desk.reading(take.file) as path:
        recording = decode(path, Limits(max_duration_s=float("inf")))
    material = Material(recording.clip, lead_in_s=take.lead_in_s, lossy=recording.lossy)
    results = analyse_material(material, take.keys)
    if take.keys is not None:
        return Analysed(results, None)
    with desk.writing(take.copy) as copy:
        gain_db = write_listening_copy(material.work, copy)
    keep_features(features_of(material), take.features, desk)
    return Analysed(results, Drawn(gain_db, outline(material.work), chart_spectrum(material)))


INSPECT = Task("inspect", inspect, limit_s=120)
ANALYSE = Task("analyse", analyse, limit_s=900)
