"""What flights taught: differences in sentences with their proof, and the verdict."""
