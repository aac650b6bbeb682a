"""The ranges of a brief, over what the shelf shows, and from takes that were pointed at."""
