"""The items of a kind as they stand for a need: what is known of them, what they cost, and their places."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

from cata.core.brief import Need
from cata.core.choose.checks import Noted, checks, wishes
from cata.core.choose.ranking import Candidate, Ranked, rank_on
from cata.core.choose.whole import Whole
from cata.core.pool.links import Link
from cata.core.shelf.offers import Offer, best_offer
from cata.said import Said
from cata.services.choice.choosing import CAN_BE_OFF
from cata.services.choice.costs import Costs
from cata.services.choice.pooling import Gathered
from cata.store.tables import Brief, Gear


@dataclass(frozen=True)
class Standing:
    """The items of a kind as they stand for a need: what is known of them, what they cost, and their places."""

    kind: str
    kinds: Sequence[str]
    brief: Brief | None
    need: Need
    known: Costs
    gathered: Gathered
    whole: Whole
    apart: Mapping[int, Link | None]
    standing: Sequence[Candidate]
    usual_minor: Sequence[int]
    blind: Mapping[int, list[Said]]
    of_before: bool = False
    """The newest takes are not counted in."""

    @property
    def items(self) -> Mapping[int, Gear]:
        """All of the kind."""
        return self.known.items

    @property
    def costs(self) -> Mapping[int, Sequence[Offer]]:
        """What each can be had for, the cheapest first."""
        return self.known.offers

    @cached_property
    def ranked(self) -> Sequence[Ranked]:
        """Those that were played and are linked, in order."""
        return rank_on(self.whole, self.need, self.standing, self.usual_minor)


def standing_of(
    kind: str, need: Need, known: Costs, told: Gathered, *, kinds: Sequence[str] = (), brief: Brief | None = None,
    blind: Mapping[int, list[Said]] = {}, of_before: bool = False,
) -> Standing:  # fmt: skip
    """The items of a kind that were gathered, with what they cost, for a need."""
    whole = Whole(need, told.evidence, can_be_off=kind in CAN_BE_OFF)
    apart = {ident: link for ident, link in whole.apart.items() if ident in known.items}
    standing = [
        _candidate(need, item, known.offers[ident])
        for ident, item in known.items.items()
        if ident in told.evidence.nodes and ident not in apart
        and any(whole.setting_for(ident, sound.key) for sound in need.sounds)
    ]  # fmt: skip
    usual = known.usual(kind, need)
    return Standing(kind, kinds, brief, need, known, told, whole, apart, standing, usual, blind, of_before)


def _candidate(need: Need, item: Gear, costs: Sequence[Offer]) -> Candidate:
    offer = best_offer(costs, need.buys)
    noted = Noted(item.kind, item.name, item.about, item.specs)
    price = offer.price_minor if offer is not None else None
    feel = need.feel.get(item.id or 0)
    return Candidate(item.id or 0, item.name, price, checks=checks(need, noted), wishes=wishes(need, noted),
                     feel=feel.score if feel is not None else None)  # fmt: skip
