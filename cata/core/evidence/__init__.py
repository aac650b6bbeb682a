"""What readings of a device say together: the four questions, what its knobs can do, its fingerprint, comparisons."""
