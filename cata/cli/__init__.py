"""The command line: serve and demo, sound files, devices, data."""

from __future__ import annotations

from cata.cli import data, device, serving, sound
from cata.cli.common import app

__all__ = ["app", "data", "device", "serving", "sound"]
