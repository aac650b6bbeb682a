"""A whole rig at once: which parts together cover the sounds best for what can be spent."""
