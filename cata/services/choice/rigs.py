"""The rig within a budget: every item of the shelf as a part, what is owned at no price, held to the brief."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlmodel import col, select

from cata.core.brief import Need
from cata.core.choose.certainty import Draws
from cata.core.choose.next import NOTHING_TELLS
from cata.core.choose.next import told_of as told_of_take
from cata.core.money import exponent, show_price
from cata.core.pairing.rule import pair_for, pairing_rules, told_of
from cata.core.rig.answer import Answer, Asked
from cata.core.rig.liking import HELD, most_of, told_liking
from cata.core.rig.parts import BUDGET, TOLD_FIT, Part, Problem, Rig
from cata.core.rig.roles import PLACE_OF
from cata.said import Said, said
from cata.services.brief.briefs import meant
from cata.services.choice.laying import ORDER, Laid, lay, pieces_of
from cata.services.choice.standing import OWNED
from cata.services.choice.telling import where
from cata.services.choice.views import CurveStep, PairingRule, RigPart, RigsView, RigView, pieces
from cata.services.workspace import Workspace, require
from cata.store.tables import Brief, Gear
from cata.tasks.rigs import RIG

RIGS, DRAWN, BUDGETS = 10, 200, 24
MISSING = 0.3
"""A sound that is met by less is not there."""
SOUNDING = ("guitar", "pickup", "pedals", "amplifier", "speaker")


@dataclass(frozen=True)
class Found:
    """The rigs of a need, with the problem they solve."""

    brief: Brief | None
    need: Need
    spendable: int | None
    laid: Laid
    answer: Answer


def seek(
    ws: Workspace, brief_id: int | None = None, need: Need | None = None, *,
    budget_minor: int | None = None, locked: Sequence[int] = (), curve: bool = True,
) -> Found:  # fmt: skip
    """The best rigs that are really different; ``budget_minor`` (reserve off already) tries another budget."""
    with ws.reading() as session:
        brief, wanted = meant(session, brief_id, need)
        for ident in locked:
            require(session, Gear, ident, "item of gear")
        spendable = wanted.spendable_minor if budget_minor is None else budget_minor
        laid = lay(ws, session, wanted, spendable, frozenset(locked), ws.now())
    budgets = _budgets(laid.problem) if curve else ()
    asked = Asked(laid.problem, RIGS, budgets, _draws(laid, wanted), _counts(laid, wanted))
    found = ws.ask(RIG, asked) if wanted.sounds else Answer([], 0.0, True, [], [], [])
    return Found(brief, wanted, spendable, laid, found)


def find_rigs(
    ws: Workspace, brief_id: int | None = None, need: Need | None = None, *,
    budget_minor: int | None = None, locked: Sequence[int] = (), curve: bool = True, at_once: bool = False,
) -> RigsView:  # fmt: skip
    """The rigs of a need as a page shows them; ``at_once``: those of before, where changes are not counted in yet."""
    with ws.reading() as session:
        brief, wanted = meant(session, brief_id, need)
    key = ("rigs", brief and brief.id, wanted.model_dump_json(), budget_minor, tuple(locked), curve)
    state = (ws.revision(), ws.now()[:10])
    before: RigsView | None = ws.answers.of_before(key, state) if at_once else None
    if before is not None:
        return before.model_copy(update={"of_before": True})
    return ws.answers.remember_as_of(
        key,
        state,
        lambda: view_of(seek(ws, brief_id, need, budget_minor=budget_minor, locked=locked, curve=curve)),
    )


def list_rules(ws: Workspace) -> list[PairingRule]:
    """All rules of pairing, each with its school, its reason, and a pair of the shelf that shows it."""
    with ws.reading() as session:
        items = session.exec(select(Gear).where(col(Gear.kind).in_(PLACE_OF)).order_by(col(Gear.id))).all()
        pieces = list(pieces_of(session, items).values())
    return [
        PairingRule(key=one.key, title=one.title, school=one.school, reason=one.reason, safety=one.safety,
                    shown_by=pair_for(one, pieces))
        for one in pairing_rules()
    ]  # fmt: skip


def _budgets(problem: Problem) -> list[int]:
    if problem.budget_minor is None:
        return []
    top = max(problem.budget_minor * 2, 1)
    return sorted({round(top * step / BUDGETS) for step in range(1, BUDGETS + 1)} | {problem.budget_minor})


def _counts(laid: Laid, need: Need) -> dict[tuple[int, str], int]:
    """How many takes there are of every item for every sound that a flight has a test for."""
    found: dict[tuple[int, str], int] = {}
    for kind, ground in laid.grounds.items():
        tested = {key for shows in laid.gathered[kind].shows.values() for key in shows.sounds}
        for ident, item in laid.items.items():
            if item.kind == kind and ident in ground.evidence.nodes:
                found |= {
                    (ident, key): ground.takes(ident, key) for sound in need.sounds if (key := sound.key) in tested
                }
    return found


def _draws(laid: Laid, need: Need) -> list[dict[int, dict[str, float]]]:
    """What the parts' fits could be, kind by kind, each drawn with what its items share."""
    parts: dict[int, list[int]] = {}
    for one in laid.problem.parts:
        parts.setdefault(one.item, []).append(one.ident)
    found: list[dict[int, dict[str, float]]] = [{} for _ in range(DRAWN)]
    for kind, ground in laid.grounds.items():
        idents = sorted({item for item in parts if laid.items[item].kind == kind} & set(ground.evidence.nodes))
        idents = [ident for ident in idents if any(ground.setting_for(ident, sound.key) for sound in need.sounds)]
        if not idents:
            continue
        for drawing in found:
            drawing.update({part: {} for ident in idents for part in parts[ident]})
        for sound, fits in Draws(need, ground, idents, 1, DRAWN).of_sounds():
            rows = fits.T.tolist()
            for at, ident in enumerate(idents):
                for part in parts[ident]:
                    for drawing, row in zip(found, rows, strict=True):
                        drawing[part][sound.key] = row[at]
    return found


def view_of(here: Found) -> RigsView:
    """Rigs as a page shows them."""
    laid, need, spendable, found, brief = here.laid, here.need, here.spendable, here.answer, here.brief
    money = need.currency
    # Where nothing is known of how anything sounds no rig is better than another.
    known = found.rigs if laid.grounds and need.sounds else []
    rigs = [_rig_view(laid, need, spendable, found, at) for at in range(len(known))]
    take, decide = None, NOTHING_TELLS.words if len(rigs) > 1 else ""
    if found.tells is not None:
        item = laid.items[found.tells.ident]
        take = where(laid.gathered[item.kind], found.tells)  # type: ignore[index]
        decide = told_of_take(found.tells, item.name, need).words
    return RigsView(
        brief_id=brief.id if brief else None, brief_name=brief.name if brief else "", currency=money,
        decimals=exponent(money), spendable_minor=spendable, rigs=rigs, proven=found.proven,
        bound=found.bound,
        verdict=_verdict(laid, need, spendable, found), notes=laid.notes, liking=_liking(laid), decide=decide,
        next_take=take, least_text=show_price(found.least_minor, money) if found.least_minor else "",
        curve=[
            CurveStep(budget_minor=step.budget_minor, budget_text=show_price(step.budget_minor, money),
                      fit=step.solved.rig.fit if step.solved.rig else None,
                      price_minor=step.solved.rig.price_minor if step.solved.rig else None,
                      bound=step.solved.bound)
            for step in found.curve
        ],
    )  # fmt: skip


def _liking(laid: Laid) -> Said | None:
    """That rigs are not put in order by their fit alone."""
    if not any(laid.liked.values()):
        return None
    words = "How parts feel and what would be nice of them count beside the fit, by up to {points:.0f} points."
    return said("liking_counts", words, points=100 * most_of(laid.liked, laid.opinions))


def _verdict(laid: Laid, need: Need, spendable: int | None, found: Answer) -> Said:
    if not need.sounds:
        return Said("no_sounds", "The brief names no sounds yet, so no rig can be better than another.")
    if not laid.grounds:
        sounds = ", ".join(sound.name.lower() for sound in need.sounds)
        words = (
            f"Nothing was recorded for {sounds} yet. Record two pedals or amplifiers first; then a rig can be chosen."
        )
        return Said("nothing_recorded", words)
    if found.rigs:
        first = found.rigs[0]
        weak = [sound.name for sound in need.sounds if sound.weight > 0 and first.by_sound[sound.key] < MISSING]
        if weak or first.fit < MISSING:
            return _missing(laid, need, first, weak)
        names = ", ".join(_name(laid, first, part) for part in _parts(laid, first) if part.price_minor)
        left = f"; {show_price(spendable - first.price_minor, need.currency)} are left" if spendable is not None else ""
        if not names:
            return Said("own", f"What is owned serves best: there is nothing to buy{left}.")
        return Said("rig", f"Buy {names} for {show_price(first.price_minor, need.currency)}{left}.")
    near = found.nearest
    if near is None:
        empty = [place for place in ("guitar", "amplifier") if not any(p.slot == place for p in laid.problem.parts)]
        why = (
            f"the shelf has no {' and no '.join(empty)} with a price"
            if empty
            else "what is locked does not go together"
        )
        return Said("nothing", f"No rig can be made: {why}.")
    wishes = [wish for wish in sorted(near.dropped) if wish != BUDGET]
    over = f"{show_price(near.over_minor, need.currency)} more to spend" if near.over_minor else ""
    gone = " and ".join([*([over] if over else []), *(f"without “{wish}”" for wish in wishes)])
    rig = near.solved.rig
    names = ", ".join(_name(laid, rig, part) for part in _parts(laid, rig)) if rig else ""
    return Said("nearest", f"Nothing fits. The nearest rig, {gone}: {names}.", {"over_minor": near.over_minor})


def _missing(laid: Laid, need: Need, rig: Rig, weak: Sequence[str]) -> Said:
    """Nothing on the shelf does it: what comes nearest, and what that lacks."""
    names = ", ".join(_name(laid, rig, part) for part in _parts(laid, rig) if part.slot in SOUNDING)
    lacks = " and ".join(weak) or "every sound"
    words = "Nothing here does it yet: {lacks} is missing. Nearest, {percent:.0f} % of the brief: {names}, {price}."
    return said("missing", words, lacks=lacks, percent=rig.fit * 100, names=names,
                price=show_price(rig.price_minor, need.currency))  # fmt: skip


def _why(laid: Laid, rig: Rig, part: Part, serves: Sequence[str]) -> Said | None:
    """What a part is there for that no sound needs on."""
    if part.slot == "power supply":
        fed = [laid.items[one.item].name for one in _parts(laid, rig) if one.slot == "pedals"]
        return said("powers", "powers {names}", names=", ".join(fed)) if fed else None
    if part.slot == "pedals" and not serves:
        if part.item in laid.problem.locked:
            return Said("locked", "you locked it; no sound needs it")
        if any(part.item in one.items for one in laid.problem.bundles):
            return Said("deal", "no sound needs it; with it the deal costs less")
    return None


def _parts(laid: Laid, rig: Rig) -> list[Part]:
    """The parts of a rig in the order of the signal."""
    mine = [part for part in laid.problem.parts if part.ident in rig.counts]
    return sorted(mine, key=lambda part: ORDER.index(part.slot))


def _name(laid: Laid, rig: Rig, part: Part) -> str:
    """The name of a part, with how many of it there are."""
    return pieces(laid.items[part.item].name, rig.counts[part.ident])


def _rig_view(laid: Laid, need: Need, spendable: int | None, found: Answer, at: int) -> RigView:
    rig = found.rigs[at]
    adds = {share.ident: share for share in found.shares} if at == 0 else {}
    names = {sound.key: sound.name for sound in need.sounds}
    idle = next((slot.idle for slot in laid.problem.slots if slot.key == "pedals"), {})
    parts = []
    for part in _parts(laid, rig):
        offer, share, count = laid.offers[part.ident], adds.get(part.ident), rig.counts[part.ident]
        serves = [
            names[key]
            for (key, slot), used in rig.serves.items()
            if used == part.ident and slot == "pedals" and _helps(part.fits.get(key, 0.0), idle.get(key, 0.0))
        ]
        parts.append(RigPart(
            gear_id=part.item, name=laid.items[part.item].name, count=count, place=part.slot,
            price_minor=part.price_minor * count,
            price_text=OWNED if offer is None else pieces(offer.text, count),
            price_about=offer.about if offer else "",
            price_old=offer.old if offer else False,
            serves=serves, why=_why(laid, rig, part, serves),
            adds=share.adds if share else None, adds_low=share.low if share else None,
            adds_high=share.high if share else None,
            cautions=[one.said for one in laid.checks[part.item] if one.answer != "yes"],
            liked=told_liking(laid.opinions[part.item]), held=part.slot in HELD,
        ))  # fmt: skip
    return RigView(
        parts=parts, price_minor=rig.price_minor, price_text=show_price(rig.price_minor, need.currency),
        left_minor=spendable - rig.price_minor if spendable is not None else None,
        left_text=show_price(spendable - rig.price_minor, need.currency) if spendable is not None else "",
        fit=rig.fit, liked=rig.liked, by_sound={names[key]: value for key, value in rig.by_sound.items()},
        chance=found.chances[at] if found.chances else 0.0,
        deals=_deals(laid, rig, need.currency),
        gives_up=_gives_up(found.rigs[0], rig, names, need, _unknown(laid, rig)) if at else _unknown(laid, rig),
        pairings=told_of([laid.pieces[part.item] for part in _parts(laid, rig)], need.pairing),
    )  # fmt: skip


def _helps(fit: float, idle: float) -> bool:
    """True where a pedal has a reason to be on; where nobody knows what it does, or what is there without it."""
    return not idle or not fit or fit > idle + TOLD_FIT


def _deals(laid: Laid, rig: Rig, currency: str) -> list[Said]:
    """What is taken off because some parts are bought together."""
    bought = {part.item for part in _parts(laid, rig)}
    return [
        Said("deal", f"{show_price(one.discount_minor, currency)} less for "
                     f"{' and '.join(laid.items[ident].name for ident in sorted(one.items))} together",
             {"minor": one.discount_minor})
        for one in laid.problem.bundles
        if one.items <= bought
    ]  # fmt: skip


def _unknown(laid: Laid, rig: Rig) -> list[Said]:
    """Parts that make sound and of which nobody knows how: they count as bad."""
    slots = {slot.key for slot in laid.problem.slots if slot.share}
    return [
        said("not_known", "nothing is known of how {name} sounds, which counts as bad", name=laid.items[part.item].name)
        for part in _parts(laid, rig)
        if part.slot in slots and not any(part.fits.values())
    ]


def _gives_up(first: Rig, rig: Rig, names: Mapping[str, str], need: Need, unknown: Sequence[Said]) -> list[Said]:
    """What a rig gives up against the first, and what it gains; first what nobody knows of it."""
    told = list(unknown)
    for key, value in rig.by_sound.items():
        less = first.by_sound[key] - value
        if abs(less) >= TOLD_FIT:
            code, words = (
                ("less", "{sound}: {by:.0f} points less fit")
                if less > 0
                else ("more", "{sound}: {by:.0f} points more fit")
            )
            told.append(said(code, words, sound=names[key], by=abs(less) * 100))
    if abs(less := first.liked - rig.liked) >= TOLD_FIT:
        code, way = ("less_liked", "less") if less > 0 else ("more_liked", "more")
        told.append(said(code, f"liked {way} by {{by:.0f}} points", by=abs(less) * 100))
    saved = first.price_minor - rig.price_minor
    if saved:
        code, way = ("cheaper", "less") if saved > 0 else ("dearer", "more")
        told.append(Said(code, f"{show_price(abs(saved), need.currency)} {way}", {"minor": abs(saved)}))
    return told
