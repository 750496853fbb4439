"""Words that most rules of a piece fill in: a winding's ends and its volts."""

from greyfell.core.belief.found import Winding
from greyfell.core.dangers.rule import Facts
from greyfell.core.figures.notation import engineering, span
from greyfell.core.figures.quantity import Quantity


def volts_words(volts: Quantity | None) -> str:
    """Volts for a sentence: about so many, with the range.

    >>> volts_words(Quantity(2100.0, 1800.0, 2500.0))
    'about 2.10 kV (1.8 to 2.5 kV)'
    """
    if volts is None:
        return "unknown volts"
    return f"about {engineering(volts.value, 'V')} ({span(volts.low, volts.high, 'V')})"


def ends_and_volts(winding: Winding) -> Facts:
    """A winding's ends and its volts."""
    return {"ends": winding.name, "volts": volts_words(winding.volts)}
