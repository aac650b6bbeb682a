"""Choosing: fit of contenders to a brief, their ranking, and how sure it is. Plain Python, no numpy."""
