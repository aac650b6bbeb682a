"""Migrations of the schema, oldest first."""
