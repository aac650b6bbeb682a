"""The shelf: items, prices, files in and out."""
