"""A network as a netlist for circuit simulators: elements and laws, nothing of this program."""

import re
from collections.abc import Sequence

from greyfell.core.network.parts import CircuitPart


def netlist(title: str, parts: Sequence[CircuitPart], analysis: Sequence[str] = ()) -> str:
    """The lines of a netlist, begun by its title and ended by what is asked of it: V, A, Ω, H, F,
    Wb.

    >>> from greyfell.core.network.parts import Resistor, Source
    >>> print(netlist("a loop", [Source(name="V", one="a", volts=230.0, hertz=50.0),
    ...                          Resistor(name="R", one="a", ohms=10.0)]))
    * a loop
    VV a 0 SIN(0 325.269119 50 0 0 0)
    RR a 0 10
    .end
    <BLANKLINE>
    """
    lines = ["* " + re.sub(r"[^ -~]", "?", title)]
    lines += [line for part in parts for line in part.lines()]
    lines += sorted({model for part in parts for model in part.models()})
    return "\n".join([*lines, *analysis, ".end", ""])
