"""All readings of one device from one recording of the test file."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from cata.core.clip import Clip
from cata.core.measure.device import bands, steady
from cata.core.measure.device.from_playing import put_chords, put_compressor, put_played
from cata.core.measure.device.from_sweeps import put_sweeps
from cata.core.measure.device.from_tones import put_tones
from cata.core.measure.device.loopback import Loop, read_loop
from cata.core.measure.device.readings import DEVICE_READINGS, NOMINAL_DBFS
from cata.core.measure.device.report import Report
from cata.core.measure.device.returned import Returned, Sent, Unusable, read_returned, read_sent
from cata.core.measure.device.tail import Tail, read_tail
from cata.core.measure.outcome import measured, refused

Tell = Callable[[float, str], None]
DIGITAL_SILENCE_DBFS = -140.0


def device_report(
    sent: Clip | Sent,
    returned: Clip,
    *,
    loopback: Clip | None = None,
    nominal_dbfs: float = NOMINAL_DBFS,
    channel: int | None = None,
    tell: Tell = lambda share, what: None,
) -> Report:
    """All readings of the device that ``returned`` was recorded through.

    ``sent`` is the test file as it was played, or its plan where nobody touched it; ``loopback`` the recording of a
    cable in the device's place.
    Raises Unusable, with the reason, where no reading would be true.
    """
    tell(0.02, "reading the file sent")
    file = sent if isinstance(sent, Sent) else read_sent(sent)
    tell(0.15, "finding the answer")
    answer = read_returned(returned, file, channel)
    noisy = steady.too_noisy(answer)
    if noisy:
        # What is loud and uneven there is no noise.
        raise Unusable(steady.sounds_in_silence(answer) or noisy)
    moving = steady.moving(answer)
    if moving:
        return _sounding_on(answer, file, moving)
    loop = None
    if loopback is not None:
        tell(0.25, "reading the loop-back")
        loop = read_loop(loopback, file)
    report = Report(file.plan.part, notes=list(answer.notes))
    if file.level_db < -0.1:
        report.notes.append(f"the file was sent {-file.level_db:.1f} dB below how it was written; levels are as sent")
    put_interface(report, answer, loop)
    tell(0.35, "harmonics at each level")
    put_tones(report, answer, file, loop, nominal_dbfs)
    tell(0.55, "sweeps")
    put_sweeps(report, answer, file, loop)
    tell(0.75, "chords")
    put_chords(report, answer)
    tell(0.85, "playing")
    put_played(report, answer, file)
    tell(0.95, "compressor")
    put_compressor(report, answer, file, nominal_dbfs)
    tell(1.0, "done")
    return report


def _sounding_on(answer: Returned, file: Sent, reason: str) -> Report:
    """The tail of a device that goes on sounding, every other reading refused; Unusable where it is no tail."""
    tail = read_tail(answer, file)
    if not isinstance(tail, Tail):
        raise Unusable(reason)
    report = Report(file.plan.part, notes=list(answer.notes))
    report.refusals = {reading.key: reason for reading in DEVICE_READINGS if reading.key != "tail"}
    report.put("tail", measured({"t60_s": tail.t60_s, "level_db": tail.level_db}))
    return report


def put_interface(report: Report, answer: Returned, loop: Loop | None) -> None:
    """Delay, clock and noise."""
    delay = answer.delay_s - (loop.returned.delay_s if loop else 0.0)
    report.put("delay_ms", measured(1000 * delay, None if loop else "the interface's own latency is in it"))
    report.put("clock_ppm", measured(answer.clock_ppm))
    quiet = steady.silence(answer)
    noise = steady.noise_dbfs(answer)
    if noise < DIGITAL_SILENCE_DBFS:
        report.put("noise_dbfs", refused("digital silence: the recording was gated or made by a program"))
        return
    if loop and noise < loop.noise_dbfs + 3.0:
        flag = f"≤ {noise:.0f} dBFS: the interface alone is as noisy"
        report.put("noise_dbfs", measured(noise, flag, "at_most"))
    else:
        report.put("noise_dbfs", measured(noise))
    blocks = np.var(quiet[: len(quiet) // 2400 * 2400].reshape(-1, 2400), axis=1)
    spread = float(np.std(blocks) / np.sqrt(len(blocks)) / max(np.mean(blocks), 1e-20))
    report.bands["noise_dbfs"] = bands.TWO_OF_A_KIND * 4.343 * spread + bands.ROUNDING
