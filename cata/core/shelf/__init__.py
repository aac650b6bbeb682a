"""The shelf as a file: gear and prices in and out as CSV or JSON, for spreadsheets and shop systems."""
