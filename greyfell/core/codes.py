"""The one sentence that stands above all others: said wherever mains wiring is planned."""

CODES = "Your local wiring code and a licensed electrician come before anything written here."
"""Said beside every planner, at the gate, on every sheet."""
