"""What to do next, and what it is worth."""
