"""Networks of plain parts and iron: solved by phasors and in time, and written as a netlist."""
