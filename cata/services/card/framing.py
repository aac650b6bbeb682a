"""What is the same on every card: the need in lines, cautions of the room, where it comes from."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from cata.core.brief import AMP_ROLES, ROOMS, Need
from cata.core.card.card import Card, CardKnob, CardSetting, Evidence, Fact
from cata.core.money import exponent, show_price
from cata.core.workshop.loudness import caution
from cata.errors import Conflict
from cata.said import Said
from cata.services.brief.briefs import spendable_text
from cata.services.choice.views import SettingFor
from cata.services.flights.views import SettingView
from cata.store.tables import Brief

MADE_OF = (
    "Made of the recordings and prices that were there on that day. "
    "A try moves every reading by as much as it may be off; chances are shares of such tries."
)
LABELS = "labels"


def framed(day: str, need: Need, brief: Brief | None, title: str) -> Card:
    """A card with what is the same in all of them."""
    warned = caution(need.loudness_limit_dba)
    return Card(
        title=title, made_on=day, brief=brief.name if brief else "", need=_lines(need), currency=need.currency,
        decimals=exponent(need.currency), spendable_minor=need.spendable_minor, cautions=[warned] if warned else [],
        rests_on=[MADE_OF],
    )  # fmt: skip


def _lines(need: Need) -> list[Fact]:
    reserve = f", {show_price(need.reserve_minor, need.currency)} kept back" if need.reserve_minor else ""
    lines = [
        ("Style", need.style),
        ("Sounds", ", ".join(f"{one.name}{' (must be there)' if one.must else ''}" for one in need.sounds)),
        ("The amplifier’s role", AMP_ROLES[need.role]),
        ("To spend", spendable_text(need) + (reserve if need.spendable_minor is not None else "")),
        ("Loudness", f"at most {need.loudness_limit_dba:g} dB(A)" if need.loudness_limit_dba else ""),
        ("Weight", f"no piece over {need.carry_limit_kg:g} kg" if need.carry_limit_kg else ""),
        ("Board", f"{need.board_mm:g} mm wide" if need.board_mm else ""),
        ("Looking for", " ".join(part for part in (need.wants or "", " or ".join(need.effects)) if part)),
        ("Must have", need.must_haves),
        ("Would be nice", need.nice_to_haves),
        ("Played", ROOMS[need.room].name if need.room else ""),
        ("Pickup", need.pickup),
        ("Tuning and strings", ", ".join(part for part in (need.tuning, need.gauge) if part)),
        ("Own rig", need.own_rig),
    ]
    return [Fact(name=name, text=text) for name, text in lines if text]


def settings(found: Sequence[SettingFor]) -> list[CardSetting]:
    """Settings as a card draws them; what is set alike for several sounds stands there once."""
    alike: dict[tuple[str, ...], list[SettingFor]] = {}
    for one in found:
        alike.setdefault((one.said.words, *(knob.text for knob in one.knobs)), []).append(one)
    return [
        CardSetting(sound=", ".join(one.sound for one in mine), knobs=knobs(mine[0].knobs), known=mine[0].said.words)
        for mine in alike.values()
    ]


def knobs(found: Sequence[SettingView]) -> list[CardKnob]:
    """Knobs as a card draws them; positions with labels are words."""
    return [
        CardKnob(name=one.name, text=one.text, position=one.position, drawn=one.noted and one.scale != LABELS)
        for one in found
    ]


def words(told: Iterable[Said]) -> list[str]:
    """What was said, for a person."""
    return [one.words for one in told]


def put_evidence(card: Card, found: Sequence[Evidence]) -> None:
    """What is known goes on the card as it is; a sound of which nothing is known of a part is said to be untested."""
    unknown: dict[str, list[str]] = {}
    for part, sound in dict.fromkeys((one.part, one.sound) for one in found):
        mine = [one for one in found if (one.part, one.sound) == (part, sound)]
        if all(one.state == "not known" for one in mine):
            unknown.setdefault(part, []).append(sound)
        else:
            card.evidence += mine
    card.not_tested += [f"{part}: nothing is known for {', '.join(sounds)}" for part, sounds in unknown.items()]


def nothing_chosen(why: str) -> Conflict:
    """There is nothing to put on a card."""
    return Conflict(f"there is nothing to put on a card: {why}", "nothing_chosen")
