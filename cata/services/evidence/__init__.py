"""Evidence: readings of takes, devices and pickups."""
