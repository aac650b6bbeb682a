"""What is shown to others: a flight as a reel, and as a page to listen to."""
