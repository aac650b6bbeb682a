"""The match: findings, repeatability, what was declared."""
