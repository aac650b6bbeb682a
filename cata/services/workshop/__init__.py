"""The workshop: calculators."""
