"""Every tolerance of the tests, with its reason (docs/measures.md gives the accuracy to reach)."""

LOUDNESS_LU = 0.05
"""BS.1770 meters are allowed 0.1; ours and the witnesses' differ by rounding only."""

PEAK_DB = 0.05
"""8 times oversampled with a parabola; a 4 times oversampled witness may read 0.4 lower near Nyquist."""

BAND_DB = 0.05
TILT_DB = 0.02
CENTROID_SHARE = 0.001
CREST_DB = 0.01
NOISE_DB = 0.2
CENTS = 1.0
CENTS_DIFFERENCE = 0.2
TEMPO_SHARE = 0.002
SUSTAIN_SHARE = 0.02
T20_S = 0.010
SPREAD_DB = 0.1
TIGHT_MS = 4.0
SAMPLE_S = 1 / 48_000
"""A re-amped take is placed to the sample."""

ALIAS_DB = -70.0
"""What folds back in a bench device, re the tone that made it."""

ORDER_GAP_PERCENT = 2.0
"""What the order of a large plan may lie over the integer solver's bound."""

CUT_S = 0.001
"""Where a slate is found, after whatever played and recorded it."""

RECOVERED_SHARE = 0.2
"""How well the known variation or drift of a simulated player must be found again."""

BREAKUP_DB = 0.15
"""Breakup on steps of 0.5 dB through 50 dB of signal to noise: 0.08 without noise; a sagging supply settles late."""
KNEE_DB = 0.15
GAIN_DB = 0.1
SLOPE = 0.02
TOUCH = 0.05
EVEN_ODD_DB = 0.5
THD_SHARE = 0.01
RESPONSE_DB = 0.05
CLARITY_DB = 0.05
CLARITY_DRIVEN_DB = 0.4
THRESHOLD_DB = 0.3
RATIO_SHARE = 0.03
TIMES_SHARE = 0.1
