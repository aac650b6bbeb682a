"""Takes together: blended, brought to one tone, against a bed."""
