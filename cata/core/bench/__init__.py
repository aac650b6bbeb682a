"""The bench: simulated stand-ins for pickups, pedals, amplifiers and speakers, each of known structure."""
