"""What a rig is made of: offers that fill slots, what they take and give, and what must be so. Imports no numpy."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

TOLD_FIT = 0.02
"""Less fit than this is not spoken of."""
BUDGET = "budget"
"""The wish that no rig costs more than can be spent."""
WEAKEST_SHARE = 0.5
"""How much of a rig's fit is that of its weakest sound: a rig has to cover them all, one very good one is no help."""


def aspect_of(label: str) -> str:
    """Of what aspect a label tells."""
    return label.partition("=")[0]


@dataclass(frozen=True, kw_only=True)
class Part:
    """One offer of an item: new, used, or owned (at price 0).

    ``fits``: how well it serves each sound, 0 to 1 (none named: 0). ``takes`` and ``gives`` are amounts of what parts
    share (current, outlets, width of the board). ``labels`` say what it is where pairing asks for it, aspect and value
    ("coil=hot", "load=8"): a part has one value of an aspect, and an aspect belongs to one slot. ``fails`` are the
    wishes it does not meet. ``stock`` is how many there are of the offer. ``liked`` is what the person's own liking of
    it counts beside the fit, below 0 where it is disliked: only of what is alone in its place.
    """

    ident: int
    item: int
    slot: str
    price_minor: int
    fits: Mapping[str, float] = field(default_factory=dict)
    takes: Mapping[str, float] = field(default_factory=dict)
    gives: Mapping[str, float] = field(default_factory=dict)
    labels: frozenset[str] = frozenset()
    fails: frozenset[str] = frozenset()
    stock: int = 1
    liked: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Slot:
    """A place in the rig for ``least`` to ``most`` parts.

    ``share``: how much of each sound it makes, 0 to 1. ``idle``: how well a sound is served where no part of the slot
    is used for it: a pedal that is off.
    """

    key: str
    least: int = 0
    most: int = 1
    share: Mapping[str, float] = field(default_factory=dict)
    idle: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Wanted:
    """A sound and how much it counts."""

    key: str
    weight: float = 1.0


@dataclass(frozen=True)
class Clash:
    """What a part with one label and one with the other lose together in each sound both serve, 0 and more.

    ``never``: they cannot be in one rig.
    """

    first: str
    second: str
    losses: Mapping[str, float] = field(default_factory=dict)
    never: bool = False


@dataclass(frozen=True)
class Requires:
    """An item that needs one of others beside it."""

    item: int
    one_of: frozenset[int]


@dataclass(frozen=True)
class Bundle:
    """Items that cost less together."""

    items: frozenset[int]
    discount_minor: int


@dataclass(frozen=True, kw_only=True)
class Problem:
    """Everything a rig is chosen from and held to.

    ``budget_minor`` None: money is no matter. ``base`` is what is there of what parts share before any part gives some.
    ``locked`` items must be in the rig. ``dropped`` are wishes that no longer count.
    """

    parts: Sequence[Part]
    slots: Sequence[Slot]
    sounds: Sequence[Wanted]
    budget_minor: int | None = None
    clashes: Sequence[Clash] = ()
    requires: Sequence[Requires] = ()
    bundles: Sequence[Bundle] = ()
    base: Mapping[str, float] = field(default_factory=dict)
    locked: frozenset[int] = frozenset()
    dropped: frozenset[str] = frozenset()

    @property
    def slot_of(self) -> Mapping[str, Slot]:
        """Slots by key."""
        return {slot.key: slot for slot in self.slots}

    @property
    def wishes(self) -> tuple[str, ...]:
        """All wishes that some part fails, and the budget where there is one."""
        failed = sorted({wish for part in self.parts for wish in part.fails} - self.dropped)
        return (*failed, *((BUDGET,) if self.budget_minor is not None and BUDGET not in self.dropped else ()))


@dataclass(frozen=True)
class Rig:
    """Parts that together are allowed: by ident how many of each; ``fit`` 0 to 1, what they cost.

    ``serves``: which part of each slot serves each sound (0: none is used). ``liked``: what all of them are liked.
    """

    counts: Mapping[int, int]
    fit: float
    price_minor: int
    by_sound: Mapping[str, float]
    serves: Mapping[tuple[str, str], int]
    liked: float = 0.0

    @property
    def value(self) -> float:
        """What rigs are put in order by: how they fit, and how they are liked."""
        return self.fit + self.liked


@dataclass(frozen=True)
class Solved:
    """The best rig (None where there is none), the value that no rig exceeds, and whether that is proven."""

    rig: Rig | None
    bound: float
    proven: bool
