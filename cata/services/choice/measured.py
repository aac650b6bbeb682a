"""What measurements say of the items of one kind: the test file's playing at every setting, beside the flights."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from sqlmodel import Session, col, select

from cata.core.brief import Need
from cata.core.choose.between import Travel, travels
from cata.core.choose.evidence import Asked, asked_of
from cata.core.choose.takes import HEARD_SHARE, jnd_at, key_of
from cata.core.evidence.carrying import carried_by
from cata.core.gear import Control
from cata.core.measure.results import from_kept
from cata.core.plan.condition import role_of
from cata.core.pool.seen import NOTHING, TEST_FILE, Node, Seen
from cata.services.choice.nodes import Playing, at_all, node_of
from cata.store.tables import Probe, ProbedPlaying

MEASURED_KINDS = ("pedal", "amplifier")


@dataclass
class Measured:
    """What was seen by what is asked, the nodes of each item with their settings and playing, and its travel."""

    seen: dict[Asked, list[Seen]] = field(default_factory=lambda: defaultdict(list))
    nodes: dict[int, list[Node]] = field(default_factory=lambda: defaultdict(list))
    settings: dict[Node, dict[str, float]] = field(default_factory=dict)
    heard: dict[Node, Playing] = field(default_factory=dict)
    travels: dict[int, Travel] = field(default_factory=dict)


def measured_of(session: Session, controls: Mapping[int, Sequence[Control]], need: Need) -> Measured:
    """What the test file's playing says of items (by their ``controls``); of a setting the newest measurement."""
    statement = (
        select(Probe, ProbedPlaying)
        .join(ProbedPlaying, col(ProbedPlaying.probe_id) == Probe.id)
        .where(col(Probe.gear_id).in_(controls))
        .order_by(col(Probe.id).desc())
    )
    found = Measured()
    sent: set[tuple[Asked, str]] = set()
    for probe, playing in session.exec(statement).all():
        ident = probe.gear_id or 0
        positions = at_all(controls[ident], probe.settings)
        node = node_of(ident, positions, {})
        if node in found.settings:
            continue  # It is one playing through one device: once more says the same.
        found.settings[node], found.heard[node] = positions, Playing(probe_id=probe.id or 0)
        found.nodes[ident].append(node)
        own, without = from_kept(playing.own).numbers(), from_kept(playing.sent).numbers()
        cell = f"{TEST_FILE} {probe.nominal_dbfs}"
        for asked, target in ((asked_of(sound, target), target) for sound in need.sounds for target in sound.targets):
            key, carried = key_of(target), carried_by(target, own_level=probe.nominal_dbfs is not None)
            if carried is None or key not in own or key not in without:
                continue
            sd = HEARD_SHARE * jnd_at(target, own[key])
            found.seen[asked].append(
                Seen(node, TEST_FILE, cell, own[key], sd, family=str(ident), transfer_sd=carried.item_sd,
                     setting_sd=carried.setting_sd)
            )  # fmt: skip
            if (asked, cell) not in sent:
                sent.add((asked, cell))
                found.seen[asked].append(Seen(NOTHING, TEST_FILE, cell, without[key], sd))
    for ident, nodes in found.nodes.items():
        knobs = [one.key for one in controls[ident] if one.scale != "labels" and role_of(one) != "level"]
        travel = travels({node: found.settings[node] for node in nodes}, knobs)
        if travel is not None:
            found.travels[ident] = travel
    return found
