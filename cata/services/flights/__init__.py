"""Flights: the table of contenders and tests."""
