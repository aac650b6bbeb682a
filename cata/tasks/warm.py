"""Imported by the fork server and by workers elsewhere: loads what every worker needs, so that it is ready at once."""

import gc

# Parts of scipy load where they are first used, which cost each worker's first take over a second.
import scipy.fft
import scipy.ndimage
import scipy.signal  # noqa: F401

import cata.tasks.audits
import cata.tasks.bench
import cata.tasks.cuts
import cata.tasks.devices
import cata.tasks.knowing
import cata.tasks.orders
import cata.tasks.strings
import cata.tasks.takes  # noqa: F401
from cata.core.measure.analysis import function_of
from cata.core.measure.registry import READINGS

for reading in READINGS:
    function_of(reading.compute)

# What every worker shares is not looked through by each of them: a full collection took 0.1 s, and copied the memory.
gc.collect()
gc.freeze()
