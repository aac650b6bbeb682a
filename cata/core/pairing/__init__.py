"""Pairing: what a part does depends on what it is plugged into. One file a rule in ``rules``, found by itself."""
