"""The takes of a test in one tone: each through the equaliser that brings it to the tone of one of them."""

from __future__ import annotations

import numpy as np

from cata.core.clip import Clip
from cata.core.match.gains import Level, listening_gains
from cata.core.measure.level import loudness_lufs, to_db, true_peak
from cata.core.measure.material import Material
from cata.errors import NotFound
from cata.media.encode import encoded
from cata.services.listen.tray import get_tray, on_two_speakers
from cata.services.listen.views import TrayView
from cata.services.together.takes import clips_of, remains_of, takes_of
from cata.services.workspace import Workspace
from cata.store.tables import Take

PEAK = 0.98


def toned_tray(ws: Workspace, flight_id: int, test_id: int, reference_id: int) -> TrayView:
    """The tray of a test with every take in the tone of one, equally loud. NotFound where that one has no take."""
    takes, tray = takes_of(ws, flight_id, test_id), get_tray(ws, flight_id, test_id, "equal")
    if reference_id not in takes:
        raise NotFound("take of this contender", reference_id)
    wanted, name = takes[reference_id]
    mine = [takes[one.contender_id or 0][0] for one in tray.takes]
    levels = on_two_speakers([_level(ws, take, wanted) for take in mine], [take.channels for take in mine])
    gains = listening_gains(levels, "equal")
    base = f"/api/flights/{flight_id}/together/{test_id}/toned"
    for one, take, level, gain_db in zip(tray.takes, mine, levels, gains.gains_db, strict=True):
        digests = f"{take.digest[:12]}-{wanted.digest[:12]}"
        one.url = f"{base}/{one.contender_id}.wav?reference={reference_id}&v={digests}"
        one.gain_db = round(gain_db, 3)
        one.loudness_lufs, one.loudness_phon = level.loudness_lufs, None
    tray.tone_of, tray.lowered_db = reference_id, round(gains.lowered_db, 2)
    tray.school, tray.school_text = "equal", f"in one tone: each through an equaliser to that of {name}, equally loud"
    return tray


def toned_sound(ws: Workspace, flight_id: int, test_id: int, contender_id: int, reference_id: int) -> bytes:
    """A take in the tone of another, as WAV (48 kHz, 24 bit). NotFound where one of them has no take."""
    takes = takes_of(ws, flight_id, test_id)
    for ident in (contender_id, reference_id):
        if ident not in takes:
            raise NotFound("take of this contender", ident)
    return encoded(_toned(ws, takes[contender_id][0], takes[reference_id][0]), "WAV", "PCM_24")


def _toned(ws: Workspace, take: Take, reference: Take) -> Clip:
    """A take through its equaliser, lowered where it would be cut; the reference as it is."""
    (clip,) = clips_of(ws, [take])
    clip = clip if take.id == reference.id else remains_of(ws, take, reference).equaliser.apply(clip)
    peak = float(np.abs(clip.samples).max(initial=0.0))
    return Clip.of(clip.samples * np.float32(PEAK / peak), clip.rate_hz) if peak > PEAK else clip


def _level(ws: Workspace, take: Take, reference: Take) -> Level:
    def measure() -> Level:
        clip = _toned(ws, take, reference)
        loudness, peak = loudness_lufs(Material(clip)).value, true_peak(clip)
        return Level(float(loudness) if isinstance(loudness, float) else None, to_db(peak) if peak > 0 else None)

    return ws.answers.remember(("toned", take.digest, reference.digest, take.evidence, reference.evidence), measure)
