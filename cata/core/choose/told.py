"""What is said of a contender's fit: what it meets, where it falls short, what nobody knows, and what would decide."""

from __future__ import annotations

from collections.abc import Sequence

from cata.core.brief import Need, Target
from cata.core.choose.checks import Check
from cata.core.choose.fit import Fit, Judged
from cata.core.choose.takes import key_of, slack_of
from cata.core.measure.registry import BY_KEY
from cata.core.money import show_price
from cata.said import Number, Said, said

MAX_REASONS = 3
MINUS = "\N{MINUS SIGN}"
LITTLE_JUDGED = 0.6
HEARD_BETTER = 0.02
"""Less fit than this is not spoken of."""
OF_COURSE = "never_so_heavy"
"""What holds of everything of a kind is no merit of one."""


def told(need: Need, one: Judged) -> Said:
    """A judgement: what, how much, for which sound. Codes: met, less and more than wanted, phrase (not to be told)."""
    reading = BY_KEY[one.target.reading]
    name = part_name(one.target)
    sound = next((s.name for s in need.sounds if s.key == one.sound), one.sound)
    numbers: dict[str, Number] = {
        "sound": one.sound,
        "reading": key_of(one.target),
        "value": one.value,
        "miss": one.miss,
    }
    unit = reading.step_unit if one.against else reading.unit
    shown = round(one.value, reading.decimals) or 0.0  # a zero has no sign
    amount = f"{shown:{'+' if one.against and shown else ''}.{reading.decimals}f} {unit}".strip().replace("-", MINUS)
    against = f" against {one.against}" if one.against else ""
    value = f"{amount}{against}"
    if _near_an_end(one.target, one.value):
        words = f"{sound}: {name} {value}; the phrase alone can move it into the range or out of it"
        return Said("phrase", words, numbers)
    if one.miss == 0.0:
        return Said("met", f"{sound}: {name} {value}, in the range", numbers)
    amount = f"{abs(one.miss):.{reading.decimals}f} {reading.step_unit}".strip()
    way = "below" if one.miss < 0 else "above"
    words = f"{sound}: {than_wanted(one, name)}, {name} {value} is {amount} {way}"
    return Said("less" if one.miss < 0 else "more", words, numbers)


def than_wanted(one: Judged, name: str) -> str:
    """In which way a value misses its range: "harsher than wanted", "more lows than wanted"."""
    reading = BY_KEY[one.target.reading]
    word = reading.less if one.miss < 0 else reading.more
    return f"{word} {name} than wanted" if word in ("less", "more") else f"{word} than wanted"


def part_name(target: Target) -> str:
    """What a target asks of, where its reading has several parts: "lows"."""
    reading = BY_KEY[target.reading]
    counted = [part for part, _ in reading.parts if part not in reading.words]
    part = dict(reading.parts).get(target.part, "") if len(counted) > 1 else ""
    return (part.split(",")[0] or reading.name).lower()


def _near_an_end(target: Target, value: float) -> bool:
    slack = slack_of(target)
    return any(end is not None and abs(value - end) < slack for end in (target.low, target.high))


def strengths(need: Need, found: Fit, checks: Sequence[Check]) -> tuple[Said, ...]:
    """What is met, the heaviest first."""
    sure = (one for one in found.judged if one.miss == 0.0 and not _near_an_end(one.target, one.value))
    met = sorted(sure, key=lambda one: -one.target.weight)
    given = (one.said for one in checks if one.answer == "yes" and one.said.code != OF_COURSE)
    off = {one.sound: one.better for one in found.off} if found.judged else {}
    names = {sound.key: sound.name for sound in need.sounds}
    left_off = (
        said("off", "{name}: left off, it is served {how} without", name=names[key], sound=key,
             how="better" if better >= HEARD_BETTER else "as well") for key, better in off.items()
    )  # fmt: skip
    return (*(told(need, one) for one in met[:MAX_REASONS]), *left_off, *given)


def shortfalls(
    need: Need, found: Fit, checks: Sequence[Check], over_minor: int, price_minor: int | None
) -> tuple[Said, ...]:
    """What stands against it: over the budget first, then what must be and is not, misses that can be heard, gaps."""
    reasons: list[Said] = []
    if over_minor:
        price = show_price(over_minor, need.currency)
        reasons.append(Said("over_budget", f"{price} over what can be spent", {"over_minor": over_minor}))
    reasons += [one.said for one in checks if one.answer == "no"]
    if found.off and not found.judged:
        reasons.append(Said("never_on", "no sound of the brief is better with it than without"))
    missed = [one for one in found.judged if one.missed_jnds >= 1.0]
    worst = sorted(missed, key=lambda one: (one.fit - 1) * one.target.weight)
    reasons += [told(need, one) for one in worst[:MAX_REASONS]]
    reasons += [one.said for one in checks if one.answer == "not known"]
    if price_minor is None:
        words = "no price known: it may be over what can be spent" if need.spendable_minor else "no price known"
        reasons.append(Said("no_price", words))
    names = {sound.key: f"“{sound.name}”" for sound in need.sounds}
    if unplayed := tuple(dict.fromkeys(names[one.sound] for one in found.missing if not one.played)):
        reasons.append(Said("not_played_in", f"not yet played for {', '.join(unplayed)}", {"sounds": len(unplayed)}))
    if found.coverage < LITTLE_JUDGED:
        words = "only {percent:.0f} % of the brief could be judged from its takes"
        reasons.append(said("little_judged", words, percent=found.coverage * 100))
    return tuple(reasons)
