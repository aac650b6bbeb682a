"""Bundles: a flight, a brief, a card or everything as one file of open formats, and back, without loss."""
