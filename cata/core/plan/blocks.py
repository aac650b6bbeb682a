"""Building blocks of tests, and ready sets of them for each kind of gear."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from cata.core.gear import GearKind
from cata.core.plan.condition import USUAL_PHRASE, Condition, Role
from cata.errors import Invalid

MAX_POSITIONS = 9
SWEPT: tuple[Role, ...] = ("gain", "level", "tone", "bass", "mids", "treble", "presence", "blend")


@dataclass(frozen=True)
class PlannedTest:
    """A test to add: its name, what it is for, and its condition."""

    name: str
    about: str
    condition: Condition


@dataclass(frozen=True, kw_only=True)
class Options:
    """What a block may be asked: the role of the swept knob, at how many positions, the phrase, power positions."""

    role: Role = "gain"
    positions: int = 5
    phrase: str = USUAL_PHRASE
    power: tuple[str, ...] = ("full", "half")


@dataclass(frozen=True)
class Block:
    """A building block: for which kinds it makes sense, and the tests it makes."""

    key: str
    name: str
    about: str
    kinds: tuple[GearKind, ...]
    make: Callable[[Options], list[PlannedTest]]


def _positions(options: Options) -> list[PlannedTest]:
    return [
        PlannedTest(
            f"{label} pickup", "the same phrase in each position", Condition(phrase=options.phrase, pickup=where)
        )
        for label, where in (("Bridge", "bridge"), ("Both", "both"), ("Neck", "neck"))
    ]


def _guitar_knobs(options: Options) -> list[PlannedTest]:
    p = options.phrase
    return [
        PlannedTest("Guitar full", "volume and tone at 10", Condition(phrase=p, guitar_volume=1.0, guitar_tone=1.0)),
        PlannedTest("Guitar volume at 6", "does it clean up, does it dull?", Condition(phrase=p, guitar_volume=0.6)),
        PlannedTest("Guitar tone at 3", "what is left of the top", Condition(phrase=p, guitar_tone=0.3)),
    ]


def _strength(_: Options) -> list[PlannedTest]:
    return [PlannedTest("Soft to hard chords", "the same chords at three strengths",
                        Condition(phrase=USUAL_PHRASE, playing="soft to hard"))]  # fmt: skip


def _phrases(_: Options) -> list[PlannedTest]:
    return [
        PlannedTest("Offbeat chords", "even, short, clean", Condition(phrase="offbeat")),
        PlannedTest("Muted riff", "tightness of the lows", Condition(phrase="muted-riff")),
        PlannedTest("Lead line", "a melody and a held note", Condition(phrase="lead-line")),
    ]


def _stages(options: Options) -> list[PlannedTest]:
    p = options.phrase
    return [
        PlannedTest("Drive off", "the rest of the chain alone", Condition(phrase=p, stage="off")),
        PlannedTest("Drive alone", "this stage without the others", Condition(phrase=p, stage="alone")),
        PlannedTest("Stacked", "all stages on", Condition(phrase=p, stage="stacked")),
    ]


def _sweep(options: Options) -> list[PlannedTest]:
    if not 2 <= options.positions <= MAX_POSITIONS:
        raise Invalid(f"a knob is swept at 2 to {MAX_POSITIONS} positions, got {options.positions}", "out_of_range")
    steps = [index / (options.positions - 1) for index in range(options.positions)]
    return [
        PlannedTest(f"{options.role.capitalize()} at {step * 10:.3g}", "the other knobs held",
                    Condition(phrase=options.phrase, knobs={options.role: step}))
        for step in steps
    ]  # fmt: skip


def _power(options: Options) -> list[PlannedTest]:
    return [
        PlannedTest(f"Power {where}", "the same settings, other power", Condition(phrase=options.phrase, power=where))
        for where in options.power
    ]


def _bed(options: Options) -> list[PlannedTest]:
    return [
        PlannedTest("Alone", "the guitar by itself", Condition(phrase=options.phrase)),
        PlannedTest("In the mix", "over the backing", Condition(phrase=options.phrase, in_the_mix=True)),
    ]


def _wet_dry(options: Options) -> list[PlannedTest]:
    return [
        PlannedTest("Dry", "no reverb, no delay", Condition(phrase=options.phrase, space="dry")),
        PlannedTest("A little room", "so that it breathes", Condition(phrase=options.phrase, space="a little room")),
    ]


def _four_questions(_: Options) -> list[PlannedTest]:
    """How much at most, how pleasant, how clean, and what the tone controls do at noon and with the drive up."""
    chords = USUAL_PHRASE
    return [
        PlannedTest("Most drive", "how much distortion at most?", Condition(phrase=chords, knobs={"gain": 1.0})),
        PlannedTest("Finest drive", "how pleasant at most? set it by ear and write it down",
                    Condition(phrase="lead-line", knobs={"gain": 0.65})),
        PlannedTest("Cleanest", "how clean and transparent at least, at equal level?",
                    Condition(phrase=chords, knobs={"gain": 0.0})),
        PlannedTest("Tone down, drive at noon", "what can the tone controls do?",
                    Condition(phrase=chords, knobs={"gain": 0.5, "tone": 0.0})),
        PlannedTest("Tone up, drive at noon", "what can the tone controls do?",
                    Condition(phrase=chords, knobs={"gain": 0.5, "tone": 1.0})),
        PlannedTest("Tone down, drive full", "do they still do it with the drive up?",
                    Condition(phrase=chords, knobs={"gain": 1.0, "tone": 0.0})),
        PlannedTest("Tone up, drive full", "do they still do it with the drive up?",
                    Condition(phrase=chords, knobs={"gain": 1.0, "tone": 1.0})),
    ]  # fmt: skip


ANY: tuple[GearKind, ...] = ("pickup", "guitar", "pedal", "amplifier", "speaker", "microphone", "direct box",
                             "strings", "cable", "power supply", "accessory")  # fmt: skip
BLOCKS: tuple[Block, ...] = (
    Block("phrases", "Three phrases", "Offbeat chords, muted riff, lead line.", ANY, _phrases),
    Block("strength", "Soft to hard", "How it answers the pick.", ANY, _strength),
    Block("four-questions", "The four questions", "Most drive, finest drive, cleanest, tone controls.", ("pedal",),
          _four_questions),
    Block("positions", "Pickup positions", "Bridge, both, neck.", ANY, _positions),
    Block("guitar-knobs", "Guitar knobs", "Full, volume rolled back, tone rolled back.", ANY, _guitar_knobs),
    Block("stages", "Stages alone and stacked", "Off, alone, with the others.", ("pedal", "amplifier"), _stages),
    Block("sweep", "Knob sweep", "One knob at several positions, the others held.",
          ("pedal", "amplifier", "guitar", "direct box"), _sweep),
    Block("power", "Power switch", "The same settings at each power.", ("amplifier",), _power),
    Block("bed", "Alone and in the mix", "With and without the backing.", ANY, _bed),
    Block("wet-dry", "Dry and with a little room", "What the space hides.", ANY, _wet_dry),
)  # fmt: skip
BLOCK: Mapping[str, Block] = {block.key: block for block in BLOCKS}


@dataclass(frozen=True)
class ReadySet:
    """A whole plan for a kind of gear: blocks with their options, and what to look after."""

    key: str
    name: str
    kind: GearKind
    about: str
    blocks: tuple[tuple[str, Options], ...]
    advice: str


D = Options()
SETS: tuple[ReadySet, ...] = (
    ReadySet("drives", "Drive pedals: the four questions", "pedal",
             "How much, how pleasant, how clean, and what its tone controls do.",
             (("four-questions", D),),
             "A clean platform, the same for all; re-amp one dry take and the match is exact."),
    ReadySet("drives-short", "Drive pedals: one afternoon", "pedal", "Three phrases and how it answers the pick.",
             (("strength", D), ("phrases", D)), "Set each pedal to unity with bypass first."),
    ReadySet("boosts", "Compressors and boosts", "pedal", "What it does to soft and hard, alone and before a stage.",
             (("strength", D), ("stages", Options(phrase="lead-line")), ("sweep", Options(role="level", positions=3))),
             "Write down what the dry blend is set to; noise comes up with compression."),
    ReadySet("pickups", "Pickups", "pickup", "Every position, three phrases, the guitar's own knobs.",
             (("positions", D), ("phrases", D), ("guitar-knobs", D)),
             "Same guitar, same strings, same height under the outer strings; let the glue of a new string settle."),
    ReadySet("heights", "Pickup height", "pickup", "One pickup, several heights as contenders.",
             (("strength", D), ("phrases", D)), "Measure the height at the last fret, string pressed down."),
    ReadySet("strings", "Strings", "strings", "Gauges and makes in one guitar.", (("strength", D), ("phrases", D)),
             "Stretch and retune; check the set-up: another gauge moves neck and intonation."),
    ReadySet("amplifiers", "Amplifiers", "amplifier", "Headroom, tone stack, power switch, in the mix.",
             (("strength", D), ("sweep", Options(role="gain", positions=4)), ("power", D), ("bed", D)),
             "Do not voice the amp for one contender: all start from the same rule. Never run one without its load."),
    ReadySet("speakers", "Speakers", "speaker", "The same amplifier through each.", (("strength", D), ("phrases", D)),
             "Same impedance, same microphone place measured from the cone; mind the difference in sensitivity."),
    ReadySet("rigs", "Whole rigs", "amplifier", "Everything as it would be used, alone and with the band.",
             (("phrases", D), ("bed", D)), "What differs is everything: the choice is between rigs, not parts."),
)  # fmt: skip
SET: Mapping[str, ReadySet] = {one.key: one for one in SETS}


def set_tests(ready: ReadySet) -> list[PlannedTest]:
    """The tests of a ready set in order."""
    return [test for key, options in ready.blocks for test in BLOCK[key].make(options)]
