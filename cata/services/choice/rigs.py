"""The rig within a budget: every item of the shelf as a part, what is owned at no price, held to the brief."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from sqlmodel import Session, col, select

from cata.core.brief import Need
from cata.core.choose.certainty import Draws
from cata.core.choose.checks import Check, Noted, checks
from cata.core.choose.whole import Whole
from cata.core.gear import GearKind
from cata.core.money import exponent, show_price
from cata.core.rig.answer import Answer, Asked
from cata.core.rig.parts import BUDGET, Clash, Part, Problem, Requires, Rig, Slot, Wanted
from cata.core.rig.roles import PLACE_OF, shares_of
from cata.core.shelf.offers import Offer, offers
from cata.said import Said, said
from cata.services.choice.pooling import gather
from cata.services.choice.views import CurveStep, RigPart, RigsView, RigView
from cata.services.shelf.prices import prices_of
from cata.services.shelf.rates import rates_of
from cata.services.workspace import Workspace, require
from cata.store.tables import Brief, Gear
from cata.tasks.rigs import RIG

ORDER = ("guitar", "pickup", "pedals", "amplifier", "speaker", "power supply", "cable", "strings")
COMPARED: tuple[GearKind, ...] = ("guitar", "pickup", "pedal", "amplifier", "direct box", "speaker")
RIGS, DRAWN, BUDGETS = 10, 200, 24
UNKNOWN_DRAW_MA = 100.0
"""What a pedal is taken to draw where nobody wrote it down: more than most drives, less than most digital ones."""
HARD = ("weight", "must_have")
"""Codes of checks that no rig may fail; others are cautions."""


@dataclass
class Laid:
    """The problem of a brief, with what is said about its parts; ``offers`` by part, ``checks`` by item."""

    problem: Problem
    items: Mapping[int, Gear]
    offers: dict[int, Offer | None] = field(default_factory=dict)
    checks: dict[int, Sequence[Check]] = field(default_factory=dict)
    grounds: dict[GearKind, Whole] = field(default_factory=dict)
    notes: list[Said] = field(default_factory=list)


def find_rigs(
    ws: Workspace, brief_id: int | None = None, need: Need | None = None, *,
    budget_minor: int | None = None, locked: Sequence[int] = (), curve: bool = True,
) -> RigsView:  # fmt: skip
    """The best rigs that are really different; ``budget_minor`` (reserve off already) tries another budget."""
    with ws.reading() as session:
        brief = require(session, Brief, brief_id) if brief_id is not None else session.exec(select(Brief)).first()
        wanted = need or (Need.model_validate(brief.need) if brief is not None else Need())
        for ident in locked:
            require(session, Gear, ident, "item of gear")
        spendable = wanted.spendable_minor if budget_minor is None else budget_minor
        laid = _lay(session, wanted, spendable, frozenset(locked), ws.now())
    asked = Asked(laid.problem, RIGS, _budgets(laid.problem) if curve else (), _draws(laid, wanted))
    key = ("rig", repr(asked.problem), tuple(asked.budgets), len(asked.draws), ws.revision())
    found = ws.remember(key, lambda: ws.ask(RIG, asked)) if wanted.sounds else Answer([], 0.0, True, [], [], [])
    return _view(laid, wanted, spendable, found, brief)


def _lay(session: Session, need: Need, spendable: int | None, locked: frozenset[int], today: str) -> Laid:
    items = {item.id or 0: item for item in session.exec(select(Gear).where(col(Gear.kind).in_(PLACE_OF))).all()}
    rates = rates_of(session)
    costs = {ident: offers(mine, need.currency, rates, today) for ident, mine in prices_of(session, items).items()}
    laid = Laid(Problem(parts=[], slots=[], sounds=[]), items)
    for kind in COMPARED:
        ground = Whole(need, gather(session, kind, need).evidence)
        if any(ground.setting_for(ident, sound.key) for ident in ground.evidence.nodes for sound in need.sounds):
            laid.grounds[kind] = ground
    known = {PLACE_OF[kind] for kind in laid.grounds}
    parts: list[Part] = []
    for ident, item in items.items():
        laid.checks[ident] = checks(need, Noted(item.kind, item.name, item.about, item.specs))
        own = ident in need.own_items
        choices: list[Offer | None] = [None] if own else [one for one in costs[ident] if one.kind in need.buys]
        for offer in choices:
            part = _part(laid, item, len(parts) + 1, 0 if offer is None else offer.price_minor, need)
            laid.offers[part.ident] = offer
            parts.append(part)
    for place in sorted({PLACE_OF[kind] for kind in ("guitar", "pickup", "amplifier", "speaker", "pedal")} - known):
        if any(part.slot == place for part in parts):
            laid.notes.append(said("place_unknown", "nothing is known of how any {place} sounds: it only costs",
                                   place=place.removesuffix("s")))  # fmt: skip
    slots = _slots(laid, parts, need, known)
    laid.problem = Problem(
        parts=parts, slots=slots, sounds=[Wanted(sound.key, sound.weight) for sound in need.sounds],
        budget_minor=spendable, requires=_requires(parts, items), clashes=_clashes(parts), base=_base(parts),
        locked=locked,
    )  # fmt: skip
    return laid


def _part(laid: Laid, item: Gear, ident: int, price_minor: int, need: Need) -> Part:
    kind: GearKind = item.kind  # type: ignore[assignment]
    ground = laid.grounds.get(kind)
    place = PLACE_OF[kind]
    fits = {sound.key: ground.fit_for(item.id or 0, sound) for sound in need.sounds} if ground is not None else {}
    specs = item.specs
    takes: dict[str, float] = {}
    gives: dict[str, float] = {}
    labels: set[str] = set()
    if place == "pedals":
        takes = {"mA": float(specs.get("draw_ma", UNKNOWN_DRAW_MA)), "outlets": 1.0}
        if plug := specs.get("polarity"):
            labels.add(f"plug={plug}")
    elif place == "power supply":
        outputs = float(specs.get("outputs", 1))
        total = specs.get("total_ma", float(specs.get("current_ma", UNKNOWN_DRAW_MA)) * outputs)
        gives = {"mA": float(total), "outlets": outputs}
        if plug := specs.get("polarity"):
            labels.add(f"supply={plug}")
    elif item.kind == "amplifier" and specs.get("speaker_load_ohm") and not _has_speaker(item):
        labels.add(f"load={float(specs['speaker_load_ohm']):g}")
    elif place == "speaker" and specs.get("impedance_ohm"):
        labels.add(f"impedance={float(specs['impedance_ohm']):g}")
    failed = {_wish(one) for one in laid.checks[item.id or 0] if one.answer == "no" and one.said.code in HARD}
    return Part(ident=ident, item=item.id or 0, slot=place, price_minor=price_minor, fits=fits, takes=takes,
                gives=gives, labels=frozenset(labels), fails=frozenset(failed))  # fmt: skip


def _wish(check: Check) -> str:
    """What is asked for of every part, where a check says that one does not have it."""
    if check.said.code == "weight":
        return f"no piece over {check.said.numbers['limit']:g} kg"
    return str(check.said.numbers["demand"])


def _has_speaker(item: Gear) -> bool:
    return any(item.specs.get(key) for key in ("speaker_count", "speaker_size_in", "speaker_sensitivity_db"))


def _slots(laid: Laid, parts: Sequence[Part], need: Need, known: set[str]) -> list[Slot]:
    there = {part.slot for part in parts}
    shares = {sound.key: shares_of(need.role, sound, known & there) for sound in need.sounds}
    pedals = laid.grounds.get("pedal")
    idle = {sound.key: (pedals.idle(sound) or 0.0) if pedals is not None else 0.0 for sound in need.sounds}
    return [
        Slot(
            key=place, most=need.most_pedals if place == "pedals" else 1,
            # What is owned already is no part of what has to be bought; a pickup is fitted only where it is wanted.
            least=1 if place in ("amplifier", "guitar") else 0,
            share={key: mine[place] for key, mine in shares.items() if place in mine},
            idle=idle if place == "pedals" else {},
        )
        for place in ORDER
        if place in there or place == "amplifier"
    ]  # fmt: skip


def _requires(parts: Sequence[Part], items: Mapping[int, Gear]) -> list[Requires]:
    """Pedals want power where the shelf has any; an amplifier without a speaker wants one."""
    supplies = frozenset(part.item for part in parts if part.slot == "power supply")
    speakers = frozenset(part.item for part in parts if part.slot == "speaker")
    found = [Requires(item, supplies) for item in sorted({p.item for p in parts if p.slot == "pedals"}) if supplies]
    heads = {p.item for p in parts if items[p.item].kind == "amplifier" and not _has_speaker(items[p.item])}
    return found + [Requires(item, speakers) for item in sorted(heads) if speakers]


def _clashes(parts: Sequence[Part]) -> list[Clash]:
    """What must not be plugged together: other polarity, other load."""
    labels = {label for part in parts for label in part.labels}

    def values(aspect: str) -> list[str]:
        return sorted(label.partition("=")[2] for label in labels if label.startswith(f"{aspect}="))

    return [
        Clash(f"{first}={one}", f"{second}={other}", never=True)
        for first, second in (("plug", "supply"), ("load", "impedance"))
        for one in values(first)
        for other in values(second)
        if one != other
    ]


def _base(parts: Sequence[Part]) -> dict[str, float]:
    """Without any power supply on the shelf power is no matter of this rig."""
    free = 0.0 if any(part.slot == "power supply" for part in parts) else 1e9
    return {"mA": free, "outlets": free}


def _budgets(problem: Problem) -> list[int]:
    if problem.budget_minor is None:
        return []
    top = max(problem.budget_minor * 2, 1)
    return sorted({round(top * step / BUDGETS) for step in range(1, BUDGETS + 1)} | {problem.budget_minor})


def _draws(laid: Laid, need: Need) -> list[dict[int, dict[str, float]]]:
    """What the parts' fits could be, kind by kind, each drawn with what its items share."""
    parts = laid.problem.parts
    found: list[dict[int, dict[str, float]]] = [{} for _ in range(DRAWN)]
    for kind, ground in laid.grounds.items():
        idents = sorted(
            {part.item for part in parts if laid.items[part.item].kind == kind} & set(ground.evidence.nodes)
        )
        idents = [ident for ident in idents if any(ground.setting_for(ident, sound.key) for sound in need.sounds)]
        if not idents:
            continue
        for sound, fits in Draws(need, ground, idents, seed=1).of_sounds():
            rows = fits[:DRAWN].tolist()
            for at, ident in enumerate(idents):
                for part in parts:
                    if part.item == ident:
                        for drawing, row in zip(found, rows, strict=True):
                            drawing.setdefault(part.ident, {})[sound.key] = row[at]
    return found


def _view(laid: Laid, need: Need, spendable: int | None, found: Answer, brief: Brief | None) -> RigsView:
    money = need.currency
    rigs = [_rig_view(laid, need, spendable, found, at) for at in range(len(found.rigs))]
    return RigsView(
        brief_id=brief.id if brief else None, brief_name=brief.name if brief else "", currency=money,
        decimals=exponent(money), spendable_minor=spendable, rigs=rigs, bound=found.bound, proven=found.proven,
        verdict=_verdict(laid, need, spendable, found), notes=laid.notes,
        curve=[
            CurveStep(budget_minor=step.budget_minor, budget_text=show_price(step.budget_minor, money),
                      fit=step.solved.rig.fit if step.solved.rig else None,
                      price_minor=step.solved.rig.price_minor if step.solved.rig else None, bound=step.solved.bound)
            for step in found.curve
        ],
    )  # fmt: skip


def _verdict(laid: Laid, need: Need, spendable: int | None, found: Answer) -> Said:
    if not need.sounds:
        return Said("no_sounds", "The brief names no sounds yet, so no rig can be better than another.")
    if found.rigs:
        first = found.rigs[0]
        names = ", ".join(laid.items[part.item].name for part in _parts(laid, first) if part.price_minor)
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
    names = ", ".join(laid.items[p.item].name for p in _parts(laid, near.solved.rig)) if near.solved.rig else ""
    return Said("nearest", f"Nothing fits. The nearest rig, {gone}: {names}.", {"over_minor": near.over_minor})


def _parts(laid: Laid, rig: Rig) -> list[Part]:
    """The parts of a rig in the order of the signal."""
    mine = [part for part in laid.problem.parts if part.ident in rig.counts]
    return sorted(mine, key=lambda part: ORDER.index(part.slot))


def _rig_view(laid: Laid, need: Need, spendable: int | None, found: Answer, at: int) -> RigView:
    rig = found.rigs[at]
    adds = {share.ident: share for share in found.shares} if at == 0 else {}
    names = {sound.key: sound.name for sound in need.sounds}
    parts = []
    for part in _parts(laid, rig):
        offer, share = laid.offers[part.ident], adds.get(part.ident)
        parts.append(RigPart(
            gear_id=part.item, name=laid.items[part.item].name, place=part.slot, price_minor=part.price_minor,
            price_text=offer.text if offer else "owned", price_about=offer.about if offer else "",
            price_old=offer.old if offer else False,
            serves=[names[key] for (key, slot), used in rig.serves.items() if used == part.ident and slot == "pedals"],
            adds=share.adds if share else None, adds_low=share.low if share else None,
            adds_high=share.high if share else None,
            cautions=[one.said for one in laid.checks[part.item] if one.answer != "yes"],
        ))  # fmt: skip
    return RigView(
        parts=parts, price_minor=rig.price_minor, price_text=show_price(rig.price_minor, need.currency),
        left_minor=spendable - rig.price_minor if spendable is not None else None,
        left_text=show_price(spendable - rig.price_minor, need.currency) if spendable is not None else "",
        fit=rig.fit, by_sound={names[key]: value for key, value in rig.by_sound.items()},
        chance=found.chances[at] if found.chances else 0.0,
        gives_up=_gives_up(found.rigs[0], rig, names, need) if at else [],
    )  # fmt: skip


def _gives_up(first: Rig, rig: Rig, names: Mapping[str, str], need: Need) -> list[Said]:
    """What a rig gives up against the first, and what it gains."""
    told = []
    for key, value in rig.by_sound.items():
        less = first.by_sound[key] - value
        if abs(less) >= 0.02:
            code, words = (
                ("less", "{sound}: {by:.0f} points less fit")
                if less > 0
                else ("more", "{sound}: {by:.0f} points more fit")
            )
            told.append(said(code, words, sound=names[key], by=abs(less) * 100))
    saved = first.price_minor - rig.price_minor
    if saved:
        code, way = ("cheaper", "less") if saved > 0 else ("dearer", "more")
        told.append(Said(code, f"{show_price(abs(saved), need.currency)} {way}", {"minor": abs(saved)}))
    return told
