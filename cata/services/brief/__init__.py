"""Briefs: what somebody needs, kept, changed and removed."""
