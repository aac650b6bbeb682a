"""A sound that somebody is after: which contender is nearest to it, and what would bring each there.

Only what plays the phrase of the takes can be held against them: other notes lie in every difference, and then whoever
seems nearest hardly ever is (docs/measures.md).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from cata.core.clip import Clip
from cata.core.match.features import features_of
from cata.core.match.pair import match_pair
from cata.core.match.tempo import SamePhrase
from cata.core.measure.material import Material
from cata.core.measure.regions import REGIONS
from cata.core.together.same_tone import BANDS_HZ, Remains, remains
from cata.said import Said, said

SURE_GAP_DB = 0.25
"""Between the nearest and the next: from 0.2 dB on the nearest was the right one in 89 of 89, below in 21 of 31."""

OTHER_PHRASE = (
    "{target} does not play what these takes play: its notes lie in every difference, so nobody is nearest. "
    "Record this test with its phrase, or hear them side by side."
)


@dataclass(frozen=True)
class Aimed:
    """A take against a target: what an equaliser does, whether both play one phrase, and where the target begins."""

    remains: Remains
    same_phrase: SamePhrase
    lag_s: float | None

    @property
    def regions(self) -> dict[str, float]:
        """By region, how the take lies against the target in dB, its level aside."""
        gains = np.array(self.remains.equaliser.gains_db)
        inside = {one.key: [one.low_hz <= hz < one.high_hz for hz in BANDS_HZ] for one in REGIONS}
        return {key: float(-gains[np.array(mine)].mean()) for key, mine in inside.items() if any(mine)}


def aim(takes: Sequence[Clip], target: Clip) -> list[Aimed]:
    """Each take against a target."""
    wanted, found = features_of(Material(target)), []
    for take in takes:
        match = match_pair(features_of(Material(take)), wanted)
        lag_s = None if match.lag_ms is None or match.same_phrase != "yes" else match.lag_ms / 1000
        found.append(Aimed(remains(take, target, anew=not match.lag_exact), match.same_phrase, lag_s))
    return found


def comparable(aimed: Mapping[int, Aimed]) -> bool:
    """True where the target plays what the takes play: most pairs must say so."""
    return 2 * sum(one.same_phrase == "yes" for one in aimed.values()) > len(aimed)


def told(aimed: Mapping[int, Aimed], names: Mapping[int, str], target: str) -> Said:
    """Who is nearest to a target, and how sure that is."""
    if not aimed:
        return said("nothing_there", "No take of this test can be held against {target}.", target=target)
    if not comparable(aimed):
        return said("other_phrase", OTHER_PHRASE, target=target)
    order = sorted(aimed, key=lambda ident: aimed[ident].remains.apart_db)
    first = aimed[order[0]].remains.apart_db
    near = [names[one] for one in order if aimed[one].remains.apart_db - first < SURE_GAP_DB]
    if len(near) == 1:
        return said("nearest", "{name} is nearest to {target}: {apart:.1f} dB apart.", name=near[0], target=target,
                    apart=first)  # fmt: skip
    return said("nearest_of", "{names} may each be nearest to {target}: {apart:.1f} dB apart.",
                names=", ".join(near), target=target, apart=first)  # fmt: skip
