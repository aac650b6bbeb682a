"""HTTP: one router a noun, problem+json errors, and the built front end."""
