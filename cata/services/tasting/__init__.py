"""Blind tastings: setting one up, pouring, answering, the reveal."""
