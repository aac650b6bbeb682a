"""Measured side by side: `make bench`. Ratios against named peers in one run, never absolute times."""
