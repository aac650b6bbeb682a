"""What is known of items from all their takes and measurements together, and how surely two of them compare."""
