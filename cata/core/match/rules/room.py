"""Room or delay on some takes only: what differs should be the gear, not the space."""

from __future__ import annotations

from collections.abc import Sequence

from cata.core.match.evidence import TakeEvidence
from cata.core.match.finding import Finding, Picture, Series
from cata.core.match.room import HOP_S, Tail, tail_of

WET_T60_S = 0.4


def wet_tails(takes: Sequence[TakeEvidence]) -> list[Finding]:
    """The takes whose tail after a stop differs in kind from that of most: wet among dry, or dry among wet."""
    tails = {take.index: tail for take in takes if (tail := tail_of(take.features.levels_db)) is not None}
    wet = {index for index, tail in tails.items() if tail.t60_s > WET_T60_S}
    dry = set(tails) - wet
    if not wet or not dry:
        return []
    odd, usual = (wet, dry) if len(wet) <= len(dry) else (dry, wet)
    by_index = {take.index: take for take in takes}
    return [_finding(by_index[index], tails[index], by_index[min(usual)], tails[min(usual)]) for index in sorted(odd)]


def _finding(take: TakeEvidence, tail: Tail, other: TakeEvidence, usual: Tail) -> Finding:
    wet = tail.t60_s > WET_T60_S
    count = min(len(tail.level_db), len(usual.level_db))
    return Finding(
        rule="wet_tail",
        severity="fault",
        text=(
            f"{take.name} {'hangs on' if wet else 'stops dry'} after the music stops"
            + (f" (60 dB down after {tail.t60_s:.1f} s)" if wet and tail.t60_s < 60 else "")
            + f"; most takes {'stop dry' if wet else 'hang on'}."
        ),
        advice="Reverb, delay or another room on one take only: set it alike for all and record this one again.",
        take=take.index,
        picture=Picture(
            x=[round(i * HOP_S, 2) for i in range(count)],
            series=[Series(take.name, tail.level_db[:count]), Series(other.name, usual.level_db[:count])],
            x_label="seconds after the stop",
            y_label="dB",
        ),
    )
