"""Words of plates and titles that speak for kinds of more than one family. Common practice."""

from greyfell.core.families.row import SaidWord

INVERTER = SaidWord(r"inverter")
WELD = SaidWord(r"\bweld")
OVEN = SaidWord(r"\boven|microwave|magnetron")
SITE = SaidWord(r"\bCTE\b|site transformer|\bPELV|\bSELV|class 2\b|doorbell")
