"""Choosing: briefs and rankings."""
