"""The calculators: each file with a ``CALCULATOR`` is one, found by itself (calculator.py)."""
