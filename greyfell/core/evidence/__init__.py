"""Evidence: what was seen and read, how it is typed, parsed, told, and what a reading may be worth.

A record is a log; nothing in this folder concludes."""

import os
import sys
from types import ModuleType

# Looking for plug-ins of pydantic reads every installed package's description, a tenth of what it
# takes to identify a file, and the tools to read them half as much again. There are none here.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
_no_plugins = ModuleType("pydantic.plugin._loader")
_no_plugins.__dict__["get_plugins"] = tuple
sys.modules.setdefault(_no_plugins.__name__, _no_plugins)
