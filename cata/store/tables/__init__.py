"""The nouns as tables. Audio never goes in here: takes point into the vault by SHA-256."""

from __future__ import annotations

from cata.store.tables.beds import Bed, Stem
from cata.store.tables.bookkeeping import Asked, Change, Failure, Revision, Setting
from cata.store.tables.derived import (
    Alignment,
    Analysed,
    Audited,
    Finding,
    Heard,
    Probed,
    ProbedPlaying,
    Reading,
    Waveform,
)
from cata.store.tables.entered import (
    Accepted,
    Brief,
    BriefItem,
    Choice,
    Contender,
    Deal,
    DealItem,
    Flight,
    Gear,
    Habit,
    Planned,
    Price,
    Probe,
    Rate,
    Recording,
    Take,
    Test,
)
from cata.store.tables.pointed import Pointed
from cata.store.tables.tasted import Answer, Glass, Taster, Tasting

__all__ = [
    "Accepted",
    "Alignment",
    "Analysed",
    "Answer",
    "Asked",
    "Audited",
    "Bed",
    "Brief",
    "BriefItem",
    "Change",
    "Choice",
    "Contender",
    "Deal",
    "DealItem",
    "Failure",
    "Finding",
    "Flight",
    "Gear",
    "Glass",
    "Habit",
    "Heard",
    "Planned",
    "Pointed",
    "Price",
    "Probe",
    "Probed",
    "ProbedPlaying",
    "Rate",
    "Reading",
    "Recording",
    "Revision",
    "Setting",
    "Stem",
    "Take",
    "Taster",
    "Tasting",
    "Test",
    "Waveform",
]
