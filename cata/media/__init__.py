"""The only place that opens audio files."""
