"""Readings of a device from the test file that was played through it (docs/measures.md, test signals)."""
