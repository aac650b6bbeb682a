"""The decision card: a choice on one page, with its evidence, and what would change it today. Imports no numpy."""
