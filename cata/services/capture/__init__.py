"""Capture: long recordings, cuts, rehearsals, slates."""
