"""What is said of a piece and of the work: words, reasons, bands, schools, first aid."""
