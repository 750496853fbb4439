"""The rig: elements in a row from the wall to the work, as a network; solved, and what it says."""
