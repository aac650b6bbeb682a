"""How a flight stands, and what is next."""
