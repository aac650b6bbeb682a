"""Cata: compare pickups, pedals and amplifiers through matched demo recordings."""

__version__ = "0.1.0"
