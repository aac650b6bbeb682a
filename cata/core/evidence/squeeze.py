"""What is asked of a compressor: how hard, how fast, what is kept and what comes up with it."""

from __future__ import annotations

from collections.abc import Sequence

from cata.core.evidence.answers import Answer, distinct, picture_of
from cata.core.evidence.knobs import knob_answers
from cata.core.evidence.probe import Probe
from cata.core.evidence.targets import KEPT
from cata.core.gear import Control
from cata.core.plan.condition import role_of
from cata.said import Said

QUESTIONS = (
    ("squeeze", "How hard does it squeeze?"),
    ("speed", "How fast does it grab, and let go?"),
    ("kept", "What is kept, and what comes up with it?"),
)
DISTORTS_PERCENT = 3.0
PICK_MS = (5.0, 20.0)
"""Attack times that cut the pick off, and from which on the whole of it gets through."""
GENTLE_RATIO, HARD_RATIO = 2.5, 8.0
NOISE_HEARD_DB, DRY_HEARD_PERCENT = 3.0, 3.0


def squeezes_only(probes: Sequence[Probe]) -> bool:
    """True for an item that turns the gain down without bending the wave at any setting measured."""
    bends = any((probe.number("thd_max_percent") or 0.0) >= DISTORTS_PERCENT for probe in probes)
    return not bends and any(probe.number(KEPT.key) is not None for probe in probes)


def squeeze_questions(probes: Sequence[Probe], controls: Sequence[Control]) -> list[Answer]:
    """The three answers in order, from probes of which one squeezes at least."""
    known = [probe for probe in probes if KEPT.of(probe) is not None]
    hardest = min(known, key=lambda probe: KEPT.of(probe) or 0.0)
    gentlest = max(known, key=lambda probe: KEPT.of(probe) or 0.0)
    return [_hard(known, hardest, gentlest), _fast(probes), _kept(known, hardest, gentlest, controls)]


def _hard(known: Sequence[Probe], hardest: Probe, gentlest: Probe) -> Answer:
    answer = Answer(*QUESTIONS[0])
    # The share of dynamics is read where nothing describes the curve; threshold and ratio are not.
    sloped = [probe for probe in known if probe.number("compressor.ratio") is not None]
    told = min(sloped, key=lambda probe: KEPT.of(probe) or 0.0, default=None)
    if told is not None:
        ratio, threshold = told.number("compressor.ratio") or 1.0, told.number("compressor.threshold_dbfs") or 0.0
        how = _how_hard(ratio)
        words = (
            f"At {{setting}} it squeezes {how.words}: from {{threshold_dbfs:.0f}} dBFS on, {{ratio:.1f}} dB more from "
            "the hand make 1 dB more."
        )
        answer.tell(how.code, words, setting=told.name, threshold_dbfs=threshold, ratio=ratio)
        dry = told.number("compressor.dry_percent") or 0.0
        if dry >= DRY_HEARD_PERCENT:
            words = "That is its squeezed path; below the threshold {percent:.0f} % of the sound go past it."
            answer.tell("dry_path", words, percent=dry)
        answer.show(told, "compressor.threshold_dbfs", "compressor.ratio", "compressor.knee_db", KEPT.key)
    else:
        words = "Hardest at {setting}; no threshold and ratio describe it."
        answer.tell("no_single_slope", words, setting=hardest.name)
        answer.show(hardest, KEPT.key)
    both = distinct(hardest, gentlest)
    answer.picture = picture_of("Level back by level sent", "level sent, dBFS", "level back, dBFS", both, "gain")
    for curve in answer.picture["curves"]:
        curve["points"] = [[level, level + gain] for level, gain in curve["points"]]
    answer.proof = tuple(probe.ident for probe in both)
    if len(known) < 2:
        answer.lacks("one_setting", "One setting only: measure it squeezing harder or more gently.")
    return answer


def _how_hard(ratio: float) -> Said:
    if ratio < GENTLE_RATIO:
        return Said("gentle", "gently")
    return Said("ceiling", "like a ceiling") if ratio > HARD_RATIO else Said("firm", "firmly")


def _fast(probes: Sequence[Probe]) -> Answer:
    answer = Answer(*QUESTIONS[1])
    timed = [probe for probe in probes if probe.number("compressor.attack_ms") is not None]
    if not timed:
        answer.lacks("not_timed", "No setting moved the gain by enough to time it: squeeze harder and measure again.")
        return answer
    quickest = min(timed, key=lambda probe: probe.number("compressor.attack_ms") or 0.0)
    slowest = max(timed, key=lambda probe: probe.number("compressor.attack_ms") or 0.0)
    first, last = (probe.number("compressor.attack_ms") or 0.0 for probe in (quickest, slowest))
    apart = last > 1.5 * first
    pick = _pick(first)
    grabs = f"It grabs within {{ms:.0f}} ms at {{setting}}, {pick.words}{{end}}"
    answer.tell(pick.code, grabs, ms=first, setting=quickest.name, end=";" if apart else ".")
    if apart:
        pick = _pick(last)
        answer.tell(pick.code, f"at {{setting}} within {{ms:.0f}} ms, {pick.words}.", ms=last, setting=slowest.name)
    release = quickest.number("compressor.release_ms")
    if release is not None:
        answer.tell("release", "It lets go in {ms:.0f} ms.", ms=release)
    answer.show(quickest, "compressor.attack_ms", "compressor.release_ms")
    both = distinct(quickest, slowest) if apart else [quickest]
    answer.picture = picture_of("Gain while a burst 26 dB louder comes and goes", "seconds", "gain, dB", both, "burst")
    answer.proof = tuple(probe.ident for probe in both)
    return answer


def _pick(attack_ms: float) -> Said:
    early, late = PICK_MS
    if attack_ms < early:
        return Said("before_pick", "before the pick is heard")
    return Said("after_pick", "after the pick") if attack_ms > late else Said("with_pick", "with the pick")


def _kept(known: Sequence[Probe], hardest: Probe, gentlest: Probe, controls: Sequence[Control]) -> Answer:
    answer = Answer(*QUESTIONS[2])
    least, most = (KEPT.of(probe) or 0.0 for probe in (hardest, gentlest))
    left = "{percent:.0f} % of the dynamics are left at {setting}"
    if most - least >= KEPT.least:
        numbers = {"setting": hardest.name, "gentlest": gentlest.name}
        answer.tell("kept", left + ", {most:.0f} % at {gentlest}.", percent=least, most=most, **numbers)
    else:
        answer.tell("kept", left + ".", percent=least, setting=hardest.name)
    risen = [probe for probe in known if probe.number("noise_up_db") is not None]
    noisiest = max(risen, key=lambda probe: probe.number("noise_up_db") or 0.0, default=None)
    raised = noisiest.number("noise_up_db") or 0.0 if noisiest is not None else 0.0
    if noisiest is not None and raised >= NOISE_HEARD_DB:
        words = "Between notes hiss and hum come up by as much as {db:.0f} dB ({setting})."
        answer.tell("noise_up", words, db=raised, setting=noisiest.name)
    blend = next((control for control in controls if role_of(control) == "blend"), None)
    if blend is not None:
        (found,) = knob_answers(known, [blend], tonal=False)
        answer.told += found.told
        answer.lacking = found.lacking
        if found.refusal is not None:
            answer.lacking = Said(found.refusal.code, f"{blend.name}: {found.refusal.words}.", {"knob": blend.name})
    answer.show(hardest, KEPT.key, "noise_up_db", "noise_below_db", "sustain_db")
    both = distinct(hardest, gentlest)
    answer.picture = picture_of("Gain by level", "level sent, dBFS", "gain, dB", both, "gain")
    answer.proof = tuple(probe.ident for probe in both)
    return answer
