"""Material to play: simulated plucked strings and the phrases they play."""
