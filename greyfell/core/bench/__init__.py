"""The bench from the wall to the piece, as a graph, and what must hold on it."""
