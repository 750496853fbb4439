"""An isolating supply: who touches what, what then flows, what clears it."""
