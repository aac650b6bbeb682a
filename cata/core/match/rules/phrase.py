"""Rules about what is played: the phrase of the reference, its chords, its register."""

from __future__ import annotations

import numpy as np

from cata.core.match.chroma import REGISTER_CENTS, REGISTER_STEP
from cata.core.match.evidence import PairEvidence, thinned
from cata.core.match.finding import Finding, Picture, Series
from cata.core.match.notes import Astray
from cata.core.measure.onsets import HOP_S
from cata.core.words import plural

PITCH_NAMES = ("A", "A sharp", "B", "C", "C sharp", "D", "D sharp", "E", "F", "F sharp", "G", "G sharp")


def onset_picture(pair: PairEvidence) -> Picture:
    """The strokes of both takes."""
    a, b = pair.reference.features.flux, pair.take.features.flux
    count = max(len(a), len(b))
    curves = [np.pad(curve, (0, count - len(curve))) for curve in (a, b)]
    points = min(400, count)
    return Picture(
        x=[round(i * count * HOP_S / points, 3) for i in range(points)],
        series=[
            Series(pair.reference.name, thinned(curves[0])),
            Series(pair.take.name, thinned(curves[1])),
        ],
        x_label="seconds",
        y_label="onset strength",
    )


def same_phrase(pair: PairEvidence) -> Finding | None:
    """Onsets and pitch classes disagree."""
    match = pair.match
    if match.same_phrase == "yes" or pair.take.features.silent or pair.reference.features.silent:
        return None
    sure = match.same_phrase == "no"
    return Finding(
        rule="not_the_same_phrase",
        severity="fault" if sure else "check",
        text=(
            f"{pair.take.name} {'does not play' if sure else 'may not play'} the phrase of {pair.reference.name} "
            f"(strokes and chords in their order agree {match.agreement:.2f}, notes {match.chroma_similarity:.2f})."
        ),
        advice="Listen to both. If it is another phrase or another test, move or record it again.",
        take=pair.take.index,
        picture=onset_picture(pair),
        numbers={"agreement": match.agreement, "notes": match.chroma_similarity},
    )


def _chords_picture(pair: PairEvidence, place: Astray) -> Picture:
    """Pitch classes of both, their strongest named."""
    curves = [curve / max(float(curve.max()), 1e-9) for curve in (place.wanted, place.played)]
    tops = {int(np.argmax(curve)) for curve in curves}
    return Picture(
        x=[tenth / 10 for tenth in range(120)],
        series=[
            Series(pair.reference.name, [round(float(v), 3) for v in curves[0]]),
            Series(pair.take.name, [round(float(v), 3) for v in curves[1]]),
        ],
        x_label="semitones above A",
        y_label="how strong",
        marks=[(top / 10, PITCH_NAMES[round(top / 10) % 12]) for top in sorted(tops)],
    )


def other_notes(pair: PairEvidence) -> Finding | None:
    """Right but for a chord: in some strokes the notes fit better when moved."""
    places = pair.match.astray
    if not places:
        return None
    worst = max(places, key=lambda place: place.margin)
    moved = plural(abs(worst.semitones), "semitone")
    more = f" and in {plural(len(places) - 1, 'more place')}" if len(places) > 1 else ""
    return Finding(
        rule="other_notes",
        severity="fault" if any(place.surely for place in places) else "check",
        text=(
            f"{pair.take.name} plays other notes than {pair.reference.name} from {worst.start_s:.1f} to "
            f"{worst.end_s:.1f} s{more}: {moved} {'higher' if worst.semitones > 0 else 'lower'} fits."
        ),
        advice="Listen to both there. If it is a wrong chord, record it again.",
        take=pair.take.index,
        picture=_chords_picture(pair, worst),
        numbers={"from_s": worst.start_s, "to_s": worst.end_s, "semitones": worst.semitones, "places": len(places)},
    )


def octave(pair: PairEvidence) -> Finding | None:
    """The whole phrase an octave higher or lower."""
    if not pair.match.octaves:
        return None
    above = "above" if pair.match.octaves > 0 else "below"
    x, y = (side.features.register for side in (pair.reference, pair.take))
    return Finding(
        rule="octave",
        severity="check",
        text=f"{pair.take.name} sounds an octave {above} {pair.reference.name}.",
        advice="If it was played there, record it again where the others are; if the device adds it, keep it.",
        take=pair.take.index,
        picture=Picture(
            x=[float(REGISTER_CENTS[0] + (i + 0.5) * REGISTER_STEP) / 100 for i in range(len(x))],
            series=[
                Series(side.name, [round(float(v), 3) for v in curve / max(float(curve.max()), 1e-9)])
                for side, curve in ((pair.reference, x), (pair.take, y))
            ],
            x_label="semitones above A 440 Hz",
            y_label="strength of the partials",
        ),
        numbers={"octaves": pair.match.octaves},
    )
