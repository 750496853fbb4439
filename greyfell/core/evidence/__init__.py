"""Evidence: what was seen and read, how it is typed, parsed, told, and what a reading may be worth.

A record is a log; nothing in this folder concludes."""
