"""Strings by their modes: another guitar than any sampler's, on which no stroke is ever twice the same.

A note is a sum of decaying partials in two directions of swing that beat against each other. The pick decides their
strengths by its place, its width and its angle, and adds its own noise; the fret hand stops them, the palm damps them.
Source: Fletcher and Rossing, The Physics of Musical Instruments, chapters 2 and 9.
"""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy.signal

from tests.corpus.phrases import STRINGS, USUAL, Hands, Note, played

Floats = npt.NDArray[np.float64]
RATE_HZ, BLOCK = 48_000, 256
LEAD_IN_S, TAIL_S = 0.6, 1.0
HIGHEST_HZ = 9000.0


@dataclass(frozen=True)
class Guitar:
    """Where the pickup listens and the pick strikes (shares of the open string from the bridge), how long strings ring
    (seconds to -60 dB at 200 Hz), their stiffness, and how loud the pick is heard."""

    pickup: float = 0.09
    pick: float = 0.17
    ring_s: float = 7.0
    stiffness: float = 6e-5
    noise: float = 0.03


GUITARS = (Guitar(), Guitar(0.24, 0.2, 9.0, 4e-5, 0.02), Guitar(0.06, 0.13, 5.0, 9e-5, 0.05))


def pluck(
    note: Note, guitar: Guitar, place: float, cents: float, hands: random.Random, noise: np.random.Generator
) -> Floats:
    """One note at 48 kHz; ``place`` is where the pick strikes, as a share of the open string."""
    hz = 440.0 * 2 ** ((note.pitch - 69 + cents / 100) / 12)
    open_ = max((one for one in STRINGS if one <= note.pitch), default=STRINGS[0])
    fretted = 2 ** ((note.pitch - open_) / 12)
    k = np.arange(1, max(2, int(HIGHEST_HZ / hz)))
    partials = k * hz * np.sqrt(1 + guitar.stiffness * k**2)
    # Share of the sounding string: fretting moves pick and pickup nearer to its middle.
    struck, heard = min(place * fretted, 0.5), min(guitar.pickup * fretted, 0.5)
    softness = np.exp(-((partials / (1800 + 5200 * note.strength)) ** 1.2))
    swing = np.sin(k * np.pi * struck) * np.sin(k * np.pi * heard) / k * softness
    ring = guitar.ring_s / (1 + (partials / 900) ** 0.9) * (0.045 if note.muted else 1.0)
    loss = 6.9 / ring
    angle = hands.gauss(0.7, 0.12)
    modes = np.concatenate((-loss + 2j * np.pi * partials, -1.7 * loss + 2j * np.pi * partials * 1.0006))
    weights = np.concatenate((swing * angle, 0.5 * swing * (1 - angle))) * note.strength**1.5 * 4
    blocks = -(-round((note.length + 0.2) * RATE_HZ) // BLOCK)
    inside = np.exp(np.outer(modes, np.arange(BLOCK) / RATE_HZ)) * weights[:, None]
    steps = np.exp(np.outer(np.arange(blocks) * BLOCK / RATE_HZ, modes))
    out = np.imag(steps @ inside).ravel()
    if note.bend:
        t = np.arange(len(out)) / RATE_HZ
        reach = np.clip((t - 0.08) / 0.15, 0, 1) * note.bend
        out = np.interp(np.cumsum(2 ** (reach / 12)) / RATE_HZ, t, out, right=0.0)
    burst = round(0.012 * RATE_HZ)
    scrape = noise.standard_normal(burst) * np.exp(-np.arange(burst) / (0.0025 * RATE_HZ))
    out[:burst] += guitar.noise * note.strength**1.5 * scrape
    stop = round(note.length * RATE_HZ)
    out[stop:] *= np.exp(-np.arange(len(out) - stop) / (0.012 * RATE_HZ))
    return np.asarray(out)


def strum(
    notes: Sequence[Note], hands: random.Random, *, by: Hands = USUAL, guitar: Guitar = GUITARS[0], cents: float = 0.0,
    tempo: float = 1.0,
) -> Floats:  # fmt: skip
    """A dry take at 48 kHz, peak about 0.6: played anew each time, down to the noise of the pick."""
    noise, now = np.random.default_rng(hands.getrandbits(32)), played(notes, hands, by, tempo=tempo)
    tuned = {string: cents + hands.gauss(0, by.cents) for string in STRINGS}
    here = guitar.pick + hands.gauss(0, by.place)
    out = np.zeros(round((LEAD_IN_S + max(one.start + one.length for one in now) + TAIL_S) * RATE_HZ))
    for note in now:
        string = max((one for one in STRINGS if one <= note.pitch), default=STRINGS[0])
        place = float(np.clip(here + hands.gauss(0, by.place), 0.03, 0.45))
        sound = pluck(note, guitar, place, tuned[string], hands, noise)
        at = round((LEAD_IN_S + note.start) * RATE_HZ)
        sound = sound[: len(out) - at]
        out[at : at + len(sound)] += sound
    coil = scipy.signal.butter(2, 4500, fs=RATE_HZ, output="sos")
    return np.asarray(scipy.signal.sosfilt(coil, out) * 0.12)
