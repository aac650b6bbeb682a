"""Which take next: the value of information of one more take (preposterior analysis; Raiffa and Schlaifer 1961).

What a take would show is not known, but how far it could move what is believed is: of what the draws of a contender's
fit to a sound differ by, one more take of n+1 settles the (n+1)-th part. How often that would bring another to the
first place, and how much better the choice would be on average, is worked out over all draws.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cata.core.brief import Need
from cata.core.choose.ranking import Ranked, contending, fit_share
from cata.core.choose.takes import Ground
from cata.said import Said, said

MOST_ASKED = 30
NEVER_PLAYED = 0.9
"""How much of what is not known at all one take settles; the rest is how playing scatters."""
WORTH, LEAST_GAIN = 0.03, 0.003
"""What changes the choice in fewer cases than this, or by less than a third of a point, is not worth a take."""

NOTHING_TELLS = Said("nothing_tells", "No single take would change the choice by anything to speak of.")


@dataclass(frozen=True)
class Tells:
    """One more take of a contender for a sound: in which share of cases the first place changes, what is gained.

    ``again``: it was played for it already.
    """

    ident: int
    sound: str
    chance: float
    gain: float
    again: bool


def what_would_tell(need: Need, ground: Ground, ranked: Sequence[Ranked], seed: int = 1) -> list[Tells]:
    """Every take of the first contenders that could change who is first, the most telling first."""
    import numpy as np

    from cata.core.choose.certainty import Draws

    contenders = contending(need, ground, ranked)
    entries = contenders[:MOST_ASKED]
    if len(entries) < 2:
        return []
    share, total = fit_share(need), sum(sound.weight for sound in need.sounds) or 1.0
    idents = [entry.candidate.ident for entry in entries]
    # The draws that the ranking's certainty rests on.
    draws = Draws(need, ground, [entry.candidate.ident for entry in contenders], seed)
    drawn = {sound.key: (sound, fits) for sound, fits in draws.of_sounds(len(idents))}
    means = np.array([entry.score - share * entry.fit.score for entry in entries])
    for sound, fits in drawn.values():
        means = means + share * sound.weight / total * fits.mean(axis=1)
    first = int(means.argmax())
    found = []
    for sound, fits in drawn.values():
        for at, ident in enumerate(idents):
            count = ground.takes(ident, sound.key)
            settled = 1 / (count + 1) if count else NEVER_PLAYED
            part = share * sound.weight / total * fits[at]
            could = means[at] + settled**0.5 * (part - part.mean())
            rival = np.delete(means, first).max() if at == first else means[first]
            changed = could < rival if at == first else could > rival
            gain = float(np.maximum(could, rival).mean() - means[first])
            found.append(Tells(ident, sound.key, float(changed.mean()), gain, count > 0))
    return sorted(
        (one for one in found if one.chance >= WORTH and one.gain >= LEAST_GAIN),
        key=lambda one: (-one.gain, -one.chance),
    )


def next_take(need: Need, ground: Ground, ranked: Sequence[Ranked]) -> tuple[Said, Tells | None]:
    """The take that would tell most, in words; that none would is said as well."""
    found = what_would_tell(need, ground, ranked)
    if not found:
        return NOTHING_TELLS, None
    best = found[0]
    name = next(entry.candidate.name for entry in ranked if entry.candidate.ident == best.ident)
    return told_of(best, name, need), best


def told_of(tells: Tells, name: str, need: Need) -> Said:
    """What one more take is said to tell."""
    where = next(f"“{sound.name}”" for sound in need.sounds if sound.key == tells.sound)
    words = "What would tell most: {again} of {name} in {where}. In {of_100:.0f} of 100 cases it changes the choice."
    return said("one_more_take", words, again="one more take" if tells.again else "a take", name=name, where=where,
                of_100=tells.chance * 100, contender=tells.ident)  # fmt: skip
