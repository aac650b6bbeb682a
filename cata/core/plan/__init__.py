"""Planning: what a flight holds constant, what its tests ask for, and in which order takes cost the least time."""
