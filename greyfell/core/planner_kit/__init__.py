"""How a planner is declared: typed inputs, typed results, words, checks; on what a plan hangs."""
