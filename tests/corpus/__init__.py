"""Flights of known truth: played anew for each take by a sampled guitar, through devices of many structures."""
