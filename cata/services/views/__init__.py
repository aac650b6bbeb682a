"""What services answer: plain models that the API sends as they are."""

from __future__ import annotations

from cata.services.views.briefs import BriefView
from cata.services.views.choice import ChoiceView, RankedView, UndoView
from cata.services.views.flights import (
    ContenderView,
    FlightSummary,
    FlightView,
    ProgressView,
    ProposalView,
    SettingView,
    StepState,
    StepView,
    TakeState,
    TakeView,
    TestView,
)
from cata.services.views.gear import FlightRef, GearView, PriceView, SpecView
from cata.services.views.listening import PouredView, TrayView
from cata.services.views.match import AlignmentView, FindingView, MatchView
from cata.services.views.readings import CellReading, ReadingRow, ReadingsView, RegionShare, SpectrumView, Trust

__all__ = [
    "AlignmentView",
    "BriefView",
    "CellReading",
    "ChoiceView",
    "ContenderView",
    "FindingView",
    "FlightRef",
    "FlightSummary",
    "FlightView",
    "GearView",
    "MatchView",
    "PouredView",
    "PriceView",
    "ProgressView",
    "ProposalView",
    "RankedView",
    "ReadingRow",
    "ReadingsView",
    "RegionShare",
    "SettingView",
    "SpecView",
    "SpectrumView",
    "StepState",
    "StepView",
    "TakeState",
    "TakeView",
    "TestView",
    "TrayView",
    "Trust",
    "UndoView",
]
