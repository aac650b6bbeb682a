"""Capture: from one long recording to takes, by slates or by silences."""
