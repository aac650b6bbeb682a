"""The demo: a shop's shelf, a brief, and flights recorded on the simulated bench. All names are invented."""
