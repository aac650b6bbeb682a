"""Are two takes comparable? Lag, polarity, tempo, tuning, phrase, level; and the audit of a flight."""
