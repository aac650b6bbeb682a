"""Blind tastings: what is poured in which glass, what answers say, and how sure that is."""
