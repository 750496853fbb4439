"""Everything that can hurt: one rule, one order, one list, and who touches what."""
