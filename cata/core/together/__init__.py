"""Takes together: blended, brought to one tone, heard against a bed, side by side."""
