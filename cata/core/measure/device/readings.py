"""Every reading of a device once: its key, name, unit and plain words. No numpy: the web process describes them."""

from __future__ import annotations

from dataclasses import dataclass
from hashlib import sha256
from typing import Literal

Question = Literal["most", "pleasant", "clean", "controls", "compressor", "interface"]
NOMINAL_DBFS = -20.0
"""Level of everyday strumming where nobody measured their own: the peak of a sine as loud as its loud blocks."""
# Raise a reading's ``version`` when its method changes: stored results of older versions are read again.


@dataclass(frozen=True, kw_only=True)
class DeviceReading:
    """What Cata knows about one reading of a device; ``jnd`` in its unit (a factor for distortion), None where hearing
    does not apply; ``tolerance`` what it reaches on devices of known truth."""

    key: str
    name: str
    unit: str
    question: Question
    about: str
    less: str
    more: str
    jnd: float | None = None
    decimals: int = 1
    part: str = "tones"
    jnd_factor: bool = False
    signed: bool = True
    tolerance: str = ""
    version: int = 2


DEVICE_READINGS: tuple[DeviceReading, ...] = (
    DeviceReading(
        key="gain_db", name="Gain", unit="dB", question="clean", jnd=1.0, tolerance="0.1 dB",
        about="How much louder a quiet tone comes back, before anything distorts.", less="quieter", more="louder",
    ),
    DeviceReading(
        key="breakup_dbfs", name="Breakup", unit="dBFS", question="most", jnd=1.0, tolerance="0.1 dB",
        about="The level at which distortion reaches 1, 3 and 10 %.", less="breaks up earlier",
        more="stays clean longer",
    ),
    DeviceReading(
        key="headroom_db", name="Headroom", unit="dB", question="clean", jnd=1.0, tolerance="as breakup",
        about="From everyday playing up to 3 % of distortion: negative means it always distorts.",
        less="breaks up under a softer hand", more="stays clean under a harder hand",
    ),
    DeviceReading(
        key="p1db_dbfs", name="Compression point", unit="dBFS", question="clean", jnd=1.0, tolerance="0.1 dB",
        about="The level at which the gain has fallen by 1 dB.", less="gives way earlier",
        more="holds its level longer",
    ),
    DeviceReading(
        key="knee_db", name="Knee", unit="dB", question="pleasant", jnd=1.0, signed=False, tolerance="0.15 dB",
        about="How many dB lie between 1 and 10 % of distortion.", less="breaks up more suddenly",
        more="breaks up more gradually",
    ),
    DeviceReading(
        key="thd_max_percent", name="At full scale", unit="%", question="most", jnd=1.5, jnd_factor=True,
        tolerance="1 %", about="Distortion of a tone at full scale (0 dBFS sent).", less="less distortion at most",
        more="more distortion at most",
    ),
    DeviceReading(
        key="thd_percent", name="Distortion by level", unit="%", question="most", jnd=1.5, jnd_factor=True, decimals=2,
        about="Distortion of a tone at each level sent.", less="cleaner", more="dirtier",
    ),
    DeviceReading(
        key="even_odd_db", name="Even against odd", unit="dB", question="pleasant", jnd=3.0, tolerance="0.5 dB",
        about="Even over odd overtones, 6 dB above breakup: even ones thicken, odd ones edge.", less="edgier",
        more="thicker",
    ),
    DeviceReading(
        key="slope_above_db_per_db", name="Give above breakup", unit="dB/dB", question="pleasant", jnd=0.1, decimals=2,
        tolerance="0.02", about="How much louder it still gets, per dB, once it has broken up: 0 is a wall.",
        less="squashes more", more="swells more under the hand",
    ),
    DeviceReading(
        key="touch_db_per_db", name="Touch", unit="dB/dB", question="pleasant", jnd=0.3, decimals=2, tolerance="0.05",
        about="How fast distortion follows the hand around everyday playing.", less="answers the pick less",
        more="answers the pick more",
    ),
    DeviceReading(
        key="response_db", name="Response", unit="dB", question="controls", jnd=1.5, part="sweep", tolerance="0.05 dB",
        about="Gain in each third octave, before anything distorts.", less="less", more="more",
    ),
    DeviceReading(
        key="harmonics_db", name="Overtones by pitch", unit="dB", question="pleasant", jnd=3.0, part="sweep",
        about="Overtones 2 to 5 against the tone that makes them, at -10 dBFS.", less="weaker", more="stronger",
    ),
    DeviceReading(
        key="transparency_db", name="Colour", unit="dB", question="clean", jnd=1.0, part="sweep", tolerance="0.05 dB",
        about="How far the response strays from a wire, 80 Hz to 10 kHz, level aside: 0 is transparent.",
        less="more transparent", more="more coloured",
    ),
    DeviceReading(
        key="low_end_loss_db", name="Low end lost", unit="dB", question="controls", jnd=1.0, part="sweep",
        tolerance="0.05 dB", about="Mids minus lows, against bypass: how much of the low end goes.",
        less="keeps the lows", more="thins the lows",
    ),
    DeviceReading(
        key="chord_clarity_db", name="Chord dirt", unit="dB", question="pleasant", jnd=3.0, part="chords",
        tolerance="0.05 dB, 0.4 driven hard",
        about="What a third at -12 dBFS gains between its notes, against the notes.", less="clearer chords",
        more="muddier chords",
    ),
    DeviceReading(
        key="chords_db", name="Chord dirt by chord", unit="dB", question="pleasant", jnd=3.0, part="chords",
        about="The same for a soft and a loud third, a fifth and a triad.", less="clearer", more="muddier",
    ),
    DeviceReading(
        key="noise_dbfs", name="Noise", unit="dBFS", question="most", jnd=1.0, tolerance="0.2 dB",
        about="Hum and hiss of the recording while nothing is sent.", less="less noise", more="more noise",
    ),
    DeviceReading(
        key="noise_below_db", name="Noise under the playing", unit="dB", question="most", jnd=1.0, signed=False,
        about="How far the noise lies under a tone at everyday level.", less="noise closer", more="noise further away",
    ),
    DeviceReading(
        key="played_breakup_dbfs", name="Breakup in playing", unit="dBFS", question="most", jnd=1.5, part="ladder",
        tolerance="1 dB", about="The level of playing (peaks) at which the device adds 3 and 10 % of its own.",
        less="breaks up under softer hands", more="needs a harder hand",
    ),
    DeviceReading(
        key="harshness_db", name="Harshness added", unit="dB", question="pleasant", jnd=1.5, part="ladder",
        about="2.5 to 8 kHz against 250 Hz to 2.5 kHz of the hardest playing, against the dry guitar.",
        less="smoother", more="harsher",
    ),
    DeviceReading(
        key="low_tightness_ms", name="Low tightness", unit="ms", question="pleasant", jnd=10.0, decimals=0,
        part="ladder",
        about="How long the lows of a muted stroke go on.", less="tighter", more="looser",
    ),
    DeviceReading(
        key="sustain_db", name="Sustain added", unit="dB", question="pleasant", jnd=1.5, part="ladder",
        tolerance="0.3 dB", about="How much less the hardest chord falls within 0.45 s than it was played.",
        less="dies away sooner", more="sings on",
    ),
    DeviceReading(
        key="tail", name="Reverb's tail", unit="s", question="interface", decimals=2, part="sweep",
        tolerance="5 %, 0.7 dB",
        about="With a reverb on: how long until it has fallen by 60 dB, and its energy against the direct sound's.",
        less="shorter", more="longer",
    ),
    DeviceReading(
        key="compressor", name="Compressor", unit="", question="compressor", part="bursts",
        tolerance="threshold 0.3 dB, ratio 3 %, times 10 %",
        about="Threshold, ratio, knee, attack (63 %), release (90 %) and the share of dynamics that is kept.",
        less="", more="",
    ),
    DeviceReading(
        key="noise_up_db", name="Noise brought up", unit="dB", question="compressor", jnd=1.0,
        part="bursts", about="How much more gain silence gets than everyday playing.", less="brings up less noise",
        more="brings up more noise",
    ),
    DeviceReading(
        key="resonance", name="Resonance", unit="Hz", question="interface", decimals=0, part="sweep",
        tolerance="1 %, Q 3 %", about="Where a coil with its cable and pots rings, and how sharply.", less="darker",
        more="brighter",
    ),
    DeviceReading(
        key="polarity", name="Polarity", unit="", question="interface", decimals=0, part="sweep",
        about="1 upright, -1 upside down: matters as soon as two sources are mixed.", less="inverted", more="upright",
    ),
    DeviceReading(
        key="delay_ms", name="Delay", unit="ms", question="interface", decimals=3, part="all",
        about="How much later it comes back; without a loop-back the interface's own latency is in it.",
        less="earlier", more="later",
    ),
    DeviceReading(
        key="clock_ppm", name="Clock", unit="ppm", question="interface", decimals=2, part="all", tolerance="0.2 ppm",
        about="How much faster the recorder ran than the player.", less="slower", more="faster",
    ),
)  # fmt: skip

COMPRESSION: tuple[DeviceReading, ...] = (
    DeviceReading(
        key="compressor.threshold_dbfs", name="Threshold", unit="dBFS", question="compressor", jnd=2.0,
        about="Where it begins to squeeze.", less="squeezes from softer playing on", more="squeezes later",
    ),
    DeviceReading(
        key="compressor.ratio", name="Ratio", unit=": 1", question="compressor", jnd=1.25, jnd_factor=True,
        about="How hard it squeezes.", less="squeezes more gently", more="squeezes harder",
    ),
    DeviceReading(
        key="compressor.knee_db", name="Compressor's knee", unit="dB", question="compressor", jnd=3.0, signed=False,
        about="Over how many dB it begins to squeeze.", less="sets in more suddenly", more="sets in more gradually",
    ),
    DeviceReading(
        key="compressor.attack_ms", name="Attack", unit="ms", question="compressor", jnd=1.5, jnd_factor=True,
        decimals=0, about="How soon it grabs.", less="grabs sooner", more="lets more of the pick through",
    ),
    DeviceReading(
        key="compressor.release_ms", name="Release", unit="ms", question="compressor", jnd=1.5, jnd_factor=True,
        decimals=0, about="How soon it lets go.", less="lets go sooner", more="lets go later",
    ),
    DeviceReading(
        key="compressor.dry_percent", name="Dry path", unit="%", question="compressor", jnd=10.0, decimals=0,
        about="How much of the sound below the threshold goes past it unsqueezed.", less="less of the dry sound",
        more="more of the dry sound",
    ),
    DeviceReading(
        key="compressor.dynamics_kept_percent", name="Dynamics kept", unit="%", question="compressor", jnd=5.0,
        decimals=0, about="The share of the dynamics that is kept.", less="evens out more",
        more="keeps more of the dynamics",
    ),
)  # fmt: skip
"""What the reading of a compressor is made of."""

BY_KEY = {reading.key: reading for reading in (*DEVICE_READINGS, *COMPRESSION)}
AS_TAKE = 2
"""Version of what the picking ladder says as a take (:mod:`cata.core.evidence.as_take`)."""
_VERSIONS = ("as a take:" + str(AS_TAKE), *(f"{key}:{reading.version}" for key, reading in BY_KEY.items()))
METHOD = sha256("/".join(_VERSIONS).encode()).hexdigest()[:16]
"""Stands for all methods together: what was read by another one is to be read again, as far as it changed."""
