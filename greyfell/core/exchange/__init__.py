"""Text to record and back: tables of readings, passports. No files."""
