"""Upkeep: undo, backups, background work."""
