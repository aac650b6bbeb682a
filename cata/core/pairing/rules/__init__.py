"""Each file with a ``RULE`` is one rule of pairing (rule.py)."""
