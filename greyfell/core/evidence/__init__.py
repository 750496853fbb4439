"""Evidence: what was seen and read, how it is typed, parsed, told, and what a reading may be worth.

A record is a log; nothing in this folder concludes."""

import os

# Looking for plug-ins of pydantic reads every installed package's description, a tenth of what it
# takes to identify a file. There are none here.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
