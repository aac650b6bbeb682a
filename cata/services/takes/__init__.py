"""Takes: received, placed, analysed."""
