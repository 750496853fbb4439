"""The kinds of readings, one module each."""
