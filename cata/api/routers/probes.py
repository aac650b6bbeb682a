"""Devices measured with the test file."""

from __future__ import annotations

from typing import Annotated, Literal

from anyio import to_thread
from fastapi import APIRouter, Path, Query, Request
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field

from cata.api.deps import WS, Id
from cata.api.receiving import AUDIO_BODY, FileName, incoming, keep_sound
from cata.core.signals.testfile.layout import PartName
from cata.services.evidence import items, probing
from cata.services.evidence.probing import ProbeIn
from cata.services.evidence.views import ComparisonView, EvidenceView, KnobAtView, PrintView
from cata.services.listen import proofs
from cata.services.listen.views import TrayView
from cata.services.takes.receiving import check_incoming

router = APIRouter(prefix="/api", tags=["measurements"])


class Noted(BaseModel):
    """A recording that is safe and will be read."""

    probe_id: int


class OwnLevel(BaseModel):
    """The level of somebody's everyday playing."""

    nominal_dbfs: float


@router.get("/testfile.wav", response_class=FileResponse)
def write_test_file(
    ws: WS,
    part: PartName = "all",
    rate: Annotated[int, Query(ge=44100, le=96000)] = 48000,
    form: Literal["24", "float"] = "24",
) -> FileResponse:
    """The test file to play through a device, as WAV at 44.1, 48 or 96 kHz."""
    chosen: probing.Rate = 44100 if rate < 46000 else 96000 if rate > 72000 else 48000
    path = probing.written_file(ws, part, chosen, form == "float")
    return FileResponse(path, media_type="audio/wav", filename=f"cata test file {part} {chosen}.wav")


@router.post("/gear/{gear_id}/probes", status_code=201, openapi_extra=AUDIO_BODY)
async def add_probe(
    ws: WS,
    gear_id: Id,
    request: Request,
    name: FileName,
    settings: Annotated[list[str] | None, Query(max_length=40)] = None,
    nominal_dbfs: Annotated[float | None, Query(ge=-80, le=0)] = None,
    full_scale: Annotated[str | None, Query(max_length=40)] = None,
) -> Noted:
    """Take the recording of the test file through an item; ``settings`` are "key=position as written".

    ``nominal_dbfs`` is the level of the player's own strumming, ``full_scale`` what the interface sends at 0 dBFS.
    """
    given = dict(one.split("=", 1) for one in settings or [] if "=" in one)
    made = ProbeIn(settings=given, nominal_dbfs=nominal_dbfs, full_scale=full_scale)
    await to_thread.run_sync(probing.check_settings, ws, gear_id, given)
    probing.check_level(made)
    kept, _ = await keep_sound(ws, request, name, sounding=True)
    ident = await to_thread.run_sync(probing.add_probe, ws, gear_id, name, kept, made)
    return Noted(probe_id=ident)


@router.post("/loopbacks", status_code=201, openapi_extra=AUDIO_BODY)
async def add_loopback(ws: WS, request: Request, name: FileName) -> Noted:
    """Take the recording of the test file through a cable: what the interface does by itself."""
    kept, _ = await keep_sound(ws, request, name, sounding=True)
    return Noted(probe_id=await to_thread.run_sync(probing.add_probe, ws, None, name, kept, ProbeIn()))


@router.post("/own-level", openapi_extra=AUDIO_BODY)
async def own_level(ws: WS, request: Request, name: FileName) -> OwnLevel:
    """The everyday level of a dry recording of somebody's strumming; nothing is kept."""
    async with incoming(ws, request, name) as received:
        await to_thread.run_sync(check_incoming, ws, received)
        return OwnLevel(nominal_dbfs=await to_thread.run_sync(probing.nominal, ws, received.path))


@router.post("/gear/{gear_id}/probes/bench", status_code=201)
def probe_on_bench(ws: WS, gear_id: Id, data: ProbeIn) -> Noted:
    """Measure the bench device that stands in for an item."""
    return Noted(probe_id=probing.probe_on_bench(ws, gear_id, data))


@router.get("/gear/{gear_id}/evidence")
def evidence(ws: WS, gear_id: Id) -> EvidenceView:
    """All that is known of an item from its measurements."""
    return items.get_evidence(ws, gear_id)


@router.get("/gear/{gear_id}/proof/{key}")
def proof(
    ws: WS, gear_id: Id, key: Annotated[str, Path(max_length=40)], school: Literal["equal", "as_set"] | None = None
) -> TrayView:
    """The playing that lets an answer be heard."""
    return proofs.get_proof(ws, gear_id, key, school)


@router.get("/gear/{gear_id}/against/{other_id}")
def against(ws: WS, gear_id: Id, other_id: Annotated[int, Path(ge=1, le=2**53)]) -> ComparisonView:
    """Two items against each other in words."""
    return items.compare(ws, gear_id, other_id)


@router.get("/gear/{gear_id}/knobs/{key}")
def knob_at(
    ws: WS,
    gear_id: Id,
    key: Annotated[str, Path(max_length=40)],
    at: Annotated[str, Query(min_length=1, max_length=60)],
) -> KnobAtView:
    """A position of a knob as a person writes it, and what is known of the item there."""
    return items.knob_at(ws, gear_id, key, at)


@router.get("/fingerprints")
def fingerprints(ws: WS) -> list[PrintView]:
    """The fingerprints of all measured items."""
    return items.fingerprints(ws)


class ProbePatch(ProbeIn):
    """What to change of a measurement."""

    settings: dict[str, Annotated[str, Field(max_length=60)]] = Field(default_factory=dict, max_length=40)


@router.patch("/probes/{probe_id}", status_code=204)
def change_probe(ws: WS, probe_id: Id, data: ProbePatch) -> None:
    """Change how a measurement was made."""
    probing.change_probe(ws, probe_id, data)


@router.delete("/probes/{probe_id}", status_code=204)
def remove_probe(ws: WS, probe_id: Id) -> None:
    """Take a measurement away."""
    probing.remove_probe(ws, probe_id)


@router.get("/probes/{probe_id}/playing", response_class=FileResponse)
def playing(ws: WS, probe_id: Id) -> FileResponse:
    """The playing in a recording, for listening."""
    return FileResponse(
        probing.playing(ws, probe_id),
        media_type="audio/flac",
        headers={"cache-control": "private, max-age=31536000, immutable"},
    )
