"""Readings from any take (docs/measures.md).

Every module here has one shape: what it measures and its conventions; named constants with
their source; one pure function per reading, ``(Material) -> Outcome``; and one entry in
:mod:`cata.core.measure.registry`. Levels are dBFS re amplitude 1.0 (an RMS level is 20 lg RMS).
"""
