"""Perceived loudness after ISO 532-1 (Zwicker), for sounds that vary in time."""
