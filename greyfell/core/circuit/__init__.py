"""Circuit: what the readings say the piece does: its impedance, its loss, as quantities.

Used by judgement and by the planners."""
