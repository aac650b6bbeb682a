"""Takes of a flight mixed: two as a blend or to both sides, up to four as layers."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel

from cata.core.resample import for_analysis
from cata.core.together import blend as blending
from cata.core.together import layers
from cata.errors import Invalid, NotFound
from cata.media.decode import Limits, decode
from cata.said import Said
from cata.services.together.aiming import target_of
from cata.services.together.beds import bed_copy
from cata.services.together.takes import clips_of, takes_of
from cata.services.workspace import Workspace
from cata.store.tables import Take
from cata.tasks.beds import MOST_S

FEWEST, MOST = 2, 4


class SumView(BaseModel):
    """The level of the second source that comes nearest to a target."""

    gain_db: float
    polarity: str
    residual_rms_db: float
    lined_up: bool


class BlendView(BaseModel):
    """Two takes mixed: how much later the second is, its polarity, the notches of the sum, and the best level.

    ``sides``: what they are to each other left and right.
    """

    first: str
    second: str
    lag_s: float | None
    polarity: str | None
    level_db: float
    notches_hz: list[float]
    notch_depth_db: float | None
    best: SumView | None
    said: list[Said]
    sides: list[Said]


class CombView(BaseModel):
    """What a sum gains against both sources without any relation of phase, in dB; None where neither is heard."""

    hz: list[float]
    gained_db: list[float | None]


class LayersView(BaseModel):
    """What layers gain by region, in dB, less what the whole gains."""

    built_db: dict[str, float]
    said: list[Said]


def blend_takes(
    ws: Workspace, flight_id: int, test_id: int, first_id: int, second_id: int, target_id: int | None = None,
    sound_id: int | None = None,
) -> BlendView:  # fmt: skip
    """Two takes of a test mixed, towards a third where one is named, or towards a sound that somebody is after."""
    takes = takes_of(ws, flight_id, test_id)
    chosen = _chosen(takes, [ident for ident in (first_id, second_id, target_id) if ident is not None])
    digests = tuple(take.digest for take in chosen)
    if target_id is None and sound_id is not None:
        digests += (target_of(ws, sound_id).digest,)

    def work_out() -> blending.Blend:
        clips = clips_of(ws, chosen)
        if len(clips) < len(digests) and sound_id is not None:
            clips.append(decode(bed_copy(ws, sound_id), Limits(max_duration_s=MOST_S)).clip)
        return blending.blend(*clips)

    found = ws.answers.remember(("blend", digests), work_out)
    best = found.best
    sides = ws.answers.remember(("sides", digests[:2]), lambda: layers.complement(*clips_of(ws, chosen[:2])))
    first, second = takes[first_id][1], takes[second_id][1]
    return BlendView(
        first=first, second=second, lag_s=found.lag_s, polarity=found.polarity,
        level_db=found.level_db, notches_hz=list(found.notches_hz), notch_depth_db=found.notch_depth_db,
        best=None if best is None else SumView(gain_db=best.gain_db, polarity=best.polarity,
                                               residual_rms_db=best.residual_rms_db, lined_up=best.lined_up),
        said=blending.told(found),
        sides=layers.told(sides, first, second, one_performance=found.lag_s is not None),
    )  # fmt: skip


def comb_of(
    ws: Workspace, flight_id: int, test_id: int, first_id: int, second_id: int, *,
    gain_db: float, inverted: bool, lined_up: bool,
) -> CombView:  # fmt: skip
    """The comb of two takes mixed at a level and a polarity, as recorded or lined up."""
    chosen = _chosen(takes_of(ws, flight_id, test_id), [first_id, second_id])
    lag = ws.answers.remember(
        ("blend", tuple(one.digest for one in chosen)), lambda: blending.blend(*clips_of(ws, chosen))
    ).lag_s
    a, b = (np.asarray(for_analysis(one).samples.mean(axis=0), dtype=np.float64) for one in clips_of(ws, chosen))
    gain = 10 ** (gain_db / 20) * (-1 if inverted else 1)
    hz, gained = blending.gained(a, b, gain, lag or 0.0 if lined_up else 0.0)
    return CombView(hz=[round(float(one), 1) for one in hz],
                    gained_db=[None if np.isnan(one) else round(float(one), 2) for one in gained])  # fmt: skip


def layers_of(ws: Workspace, flight_id: int, test_id: int, contenders: Sequence[int]) -> LayersView:
    """What two to four takes of a test gain as layers. Invalid for fewer, more, or one of them twice."""
    if not FEWEST <= len(contenders) <= MOST or len(set(contenders)) < len(contenders):
        raise Invalid(f"layers are {FEWEST} to {MOST} different contenders", "layers")
    takes = takes_of(ws, flight_id, test_id)
    chosen = _chosen(takes, contenders)
    key = ("layers", *(take.digest for take in chosen))
    built = ws.answers.remember(key, lambda: layers.build_up(clips_of(ws, chosen)))
    return LayersView(built_db=built, said=layers.told_layers(built, [takes[ident][1] for ident in contenders]))


def _chosen(takes: dict[int, tuple[Take, str]], idents: Sequence[int]) -> list[Take]:
    for ident in idents:
        if ident not in takes:
            raise NotFound("take of this contender", ident)
    return [takes[ident][0] for ident in idents]
