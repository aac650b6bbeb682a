"""Equivalent drive: the share of a take's power that no linear filter of its dry signal explains."""
