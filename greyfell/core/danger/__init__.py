"""Everything that can hurt at a piece, on a rig, by a plan or an act, told in one form."""
