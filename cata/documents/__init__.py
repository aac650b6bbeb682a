"""Documents that stand by themselves: one HTML file with all that it shows, for a browser without a server."""
