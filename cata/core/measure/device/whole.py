"""All readings of one device from one recording of the test file."""

from __future__ import annotations

from collections.abc import Callable, Collection

from cata.core.clip import Clip
from cata.core.measure.device import bands, lingering, steady
from cata.core.measure.device.from_playing import put_chords, put_compressor, put_played
from cata.core.measure.device.from_sweeps import put_sweeps
from cata.core.measure.device.from_tones import put_tones
from cata.core.measure.device.loopback import Loop, read_loop
from cata.core.measure.device.readings import BY_KEY, DEVICE_READINGS, NOMINAL_DBFS
from cata.core.measure.device.report import Report
from cata.core.measure.device.returned import Returned, Sent, Unusable, read_returned, read_sent
from cata.core.measure.device.tail import Tail, read_tail
from cata.core.measure.outcome import measured, refused
from cata.said import Said, said

Tell = Callable[[float, str], None]
LATENCY = said("interface_in_it", "the interface's own latency is in it")
GATED = said("digital_silence", "digital silence: the recording was gated or made by a program")
AS_NOISY = said("interface_as_noisy", "the interface alone is as noisy")
DIGITAL_SILENCE_DBFS = -140.0


def device_report(
    sent: Clip | Sent,
    returned: Clip,
    *,
    loopback: Clip | None = None,
    nominal_dbfs: float = NOMINAL_DBFS,
    channel: int | None = None,
    keys: Collection[str] | None = None,
    tell: Tell = lambda share, what: None,
) -> Report:
    """All readings of the device that ``returned`` was recorded through.

    ``sent`` is the test file as it was played, or its plan where nobody touched it; ``loopback`` the recording of a
    cable in the device's place; ``keys`` the readings that are wanted, where not all are: those of the same part of
    the file come with them.
    Raises Unusable, with the reason, where no reading would be true.
    """
    tell(0.02, "reading the file sent")
    file = sent if isinstance(sent, Sent) else read_sent(sent)
    tell(0.15, "finding the answer")
    answer = read_returned(returned, file, channel)
    moving = lingering.echo(answer)
    noisy = steady.too_noisy(answer)
    if noisy and not moving:
        # What is loud and uneven there is no noise.
        raise Unusable.of(steady.sounds_in_silence(answer) or noisy)
    moving = moving or steady.moving(answer)
    if moving:
        return _sounding_on(answer, file, moving)
    wrong = steady.coded(answer) or steady.level_moved(answer)
    if wrong:
        raise Unusable.of(wrong)
    loop = None
    if loopback is not None:
        tell(0.25, "reading the loop-back")
        loop = read_loop(loopback, file)
    report = Report(file.plan.part, notes=list(answer.notes))
    if file.level_db < -0.1:
        words = "the file was sent {db:.1f} dB below how it was written; levels are as sent"
        report.notes.append(said("sent_lower", words, db=-file.level_db))
    put_interface(report, answer, loop)
    parts = {BY_KEY[key].part for key in keys} if keys is not None else None
    if parts is not None and "sweep" in parts and not file.plan.of("sweep"):
        # Where the part holds no sweep, the playing tells what it can of the response.
        parts.add("ladder")
    steps: tuple[tuple[float, str, str, Callable[[], None]], ...] = (
        (0.35, "tones", "harmonics at each level", lambda: put_tones(report, answer, file, loop, nominal_dbfs)),
        (0.55, "sweep", "sweeps", lambda: put_sweeps(report, answer, file, loop)),
        (0.75, "chords", "chords", lambda: put_chords(report, answer)),
        (0.85, "ladder", "playing", lambda: put_played(report, answer, file)),
        (0.95, "bursts", "compressor", lambda: put_compressor(report, answer, file, nominal_dbfs)),
    )
    for share, part, what, put in steps:
        if parts is None or part in parts:
            tell(share, what)
            put()
    tell(1.0, "done")
    return report


def _sounding_on(answer: Returned, file: Sent, reason: Said) -> Report:
    """The tail of a device that goes on sounding, every other reading refused; Unusable where it is no tail."""
    tail = read_tail(answer, file)
    if not isinstance(tail, Tail):
        raise Unusable.of(reason)
    report = Report(file.plan.part, notes=list(answer.notes))
    for reading in DEVICE_READINGS:
        if reading.key != "tail":
            report.put(reading.key, refused(reason))
    report.put("tail", measured({"t60_s": tail.t60_s, "level_db": tail.level_db}))
    return report


def put_interface(report: Report, answer: Returned, loop: Loop | None) -> None:
    """Delay, clock and noise."""
    delay = answer.delay_s - (loop.returned.delay_s if loop else 0.0)
    report.put("delay_ms", measured(1000 * delay, None if loop else LATENCY))
    report.put("clock_ppm", measured(answer.clock_ppm))
    noise = steady.noise_dbfs(answer)
    if noise < DIGITAL_SILENCE_DBFS:
        report.put("noise_dbfs", refused(GATED))
        return
    if loop and noise < loop.noise_dbfs + 3.0:
        report.put("noise_dbfs", measured(noise, AS_NOISY, "at_most"))
    else:
        report.put("noise_dbfs", measured(noise))
    report.add_bands({"noise_dbfs": bands.TWO_OF_A_KIND * 4.343 * steady.noise_scatter(answer) + bands.ROUNDING})
