"""Background work: one shape for all of it, the workers it runs on, and what they do."""
