"""Audits: what was kept of the takes is enough."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile

from cata.core.match.evidence import Source
from cata.errors import BadAudio
from cata.tasks.audits import AUDIT_TEST, TestToAudit, ToCompare
from cata.tasks.desk import Desk
from cata.tasks.takes import ANALYSE, ToAnalyse
from tests.tones import plucks


def test_an_audit_decodes_nothing_that_was_read_before(tmp_path: Path) -> None:
    desk = Desk(str(tmp_path))
    rows = []
    for name, lead_s, level in (("a", 0.3, 0.5), ("b", 0.35, 0.2)):
        samples = plucks([lead_s, lead_s + 0.6, lead_s + 1.1, lead_s + 1.9, lead_s + 2.6], 196.0, 8.0, 4.0) * level
        soundfile.write(str(tmp_path / f"{name}.wav"), np.stack([samples, 0.5 * samples], axis=1), 44100, "PCM_24")
        read = ANALYSE.run(ToAnalyse(f"{name}.wav", f"{name}.flac", f"{name}.npz"), desk)
        source = Source("PCM_24", False, 44100, 2)
        rows.append(ToCompare(name, source, f"{name}.wav", f"{name}.flac", f"{name}.npz", read.results))
    first = AUDIT_TEST.run(TestToAudit(tuple(rows), 0), desk)
    assert first.matches[1].lag_exact
    assert first.matches[1].lag_ms == pytest.approx(1000 * 0.05 * 48000 / 44100, abs=0.03)
    for name in "ab":
        (tmp_path / f"{name}.wav").rename(tmp_path / f"{name}.away")
    assert AUDIT_TEST.run(TestToAudit(tuple(rows), 0), desk) == first
    # What an older version kept, or nobody, is taken again from the recording; damaged is as good as gone.
    (tmp_path / "a.npz").write_bytes((tmp_path / "a.npz").read_bytes()[:900])
    (tmp_path / "b.npz").unlink()
    with pytest.raises(BadAudio):
        AUDIT_TEST.run(TestToAudit(tuple(rows), 0), desk)
    for name in "ab":
        (tmp_path / f"{name}.away").rename(tmp_path / f"{name}.wav")
    assert AUDIT_TEST.run(TestToAudit(tuple(rows), 0), desk) == first
    assert (tmp_path / "b.npz").exists()
