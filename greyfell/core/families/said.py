"""Words of plates and titles that speak for kinds of more than one family. Common practice."""

from greyfell.core.families.row import Word

INVERTER = Word(r"inverter")
WELD = Word(r"\bweld")
OVEN = Word(r"\boven|microwave|magnetron")
SITE = Word(r"\bCTE\b|site transformer|\bPELV|\bSELV|class 2\b|doorbell")
