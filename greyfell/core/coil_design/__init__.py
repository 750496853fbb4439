"""A winding that is to be made: what goes into a window, what it conducts, what it welds."""
