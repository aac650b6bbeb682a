"""Listening: what the tray plays."""
