"""Henries of a winding by an inductance meter, at its own frequency."""

import math
import re
from collections.abc import Iterable
from typing import Any, Literal

from pydantic import Field

from greyfell.core.evidence.accuracy import limit
from greyfell.core.evidence.kinds.reading import (
    MOST_FEW,
    AnyReading,
    HookUp,
    Pad,
    TurnsTold,
    ends,
)
from greyfell.core.evidence.kinds.shown import SHOWN_OHMS
from greyfell.core.evidence.part import Henries, Hertz, Pair, Quality
from greyfell.core.evidence.typed_line import BY_FIGURES, Form, Heard, Said, hertz_in, refuse
from greyfell.core.figures.notation import as_read, parse_quantity

SELF_FARADS = (1.5e-10, 0.8)
"""A winding's own capacitance and the spread of its logarithm: an inductance meter reads L/(1 −
ω²LC), more of it the nearer the winding is to its resonance. REF-Q-05's range for windings, common
practice."""
RESONANT = 0.3
"""From this share of the way to its own resonance an inductance reading tells nothing: beyond it
the meter shows the winding's capacitance, and the figure alone does not say which. HV windings
resonate near 1 kHz (common practice)."""
SPOILT_Q = 1.0
"""Below this Q the figure for the henries is spoilt: by resistance, by a loop, or by the winding's
own resonance. Common practice."""
SPOILT_SHARE = 0.5
"""Ohms above this share of the reactance spoil it too. Common practice."""
UNKNOWN_HERTZ = 1000.0
"""What an inductance meter is taken to use where nobody wrote it down: the common one that tells
least. Common practice."""
LEAST_HERTZ = 100.0
"""What an inductance meter uses at least. Common practice."""
LOW_HERTZ = 130.0
"""Inductance meters' low frequencies, 100 and 120 Hz, lie below this."""
LAMINATED_SD = (0.015, 0.05)
"""Spread of ½ ln L by laminations and habit, at low frequency and above. From memory."""
SPOILT_SD = 0.3
"""Added where resistance or a low Q spoils the figure. From memory."""
LIMITS_TO_SD = 3.5
"""Limits of henries over the standard deviation of ½ ln L: rectangular, and half of it."""
_HENRIES = re.compile(r"\d\s*[munµμ]?h(?:enry|enries)?\b", re.I)
_Q = re.compile(r"\bq\s*=?\s*([\d.,]+)", re.I)
_NAMED_L = re.compile(r"^\s*L\s+", re.I)
"""“L” before an inductance, as a step begins it."""


def near_resonance(r: Any) -> float:
    """How near an inductance reading lies to the winding's own resonance, as ω²·L·C with the usual
    self-capacitance. Resonance of L and C; the capacitance common practice.

    >>> from types import SimpleNamespace
    >>> round(near_resonance(SimpleNamespace(hertz=1000.0, henries=50.0)), 2)
    0.3
    """
    hertz = r.hertz or UNKNOWN_HERTZ
    return float((2 * math.pi * hertz) ** 2 * r.henries * SELF_FARADS[0])


def _read(heard: Heard) -> Said:
    """Henries at the meter's frequency, with Q where it shows one."""
    rest = heard.rest
    hertz = hertz_in(rest)
    if not hertz and "?" not in rest:
        refuse(
            "An inductance needs the meter's frequency: “A-B 1.6H 100Hz”, or “?” where it is not "
            "known. 100 or 120 Hz tell most."
        )
    known = {"hertz": parse_quantity(hertz, "hertz", field="hertz")} if hertz else {}
    q = _Q.search(rest)
    text = rest.replace(hertz or "?", "").replace(q[0] if q else "", "")
    text = _NAMED_L.sub("", text)
    henries = parse_quantity(text, "henry", field="henries")
    quality = {"q": parse_quantity(q[1], "turn", field="q")} if q else {}
    return {"kind": "inductance", "across": heard.pair, "henries": henries, **known, **quality}


class Inductance(AnyReading):
    """Henries across a winding at a meter's hertz;
    `q` its quality, `shorted` pairs closed meanwhile.
    """

    kind: Literal["inductance"] = "inductance"
    across: Pair
    henries: Henries
    hertz: Hertz | None = None
    q: Quality | None = None
    shorted: list[Pair] = Field(default=[], max_length=MOST_FEW)

    lines = (("A-B 1.6H 100Hz", "inductance"),)
    after_pair = (Form(lambda heard: _HENRIES.search(heard.rest), _read, BY_FIGURES),)
    pad = Pad(units=(("H", "H"), ("mH", "mH"), ("µH", "uH")))
    moves = "henries"
    weighs_turns = True
    reaches = "low"
    told_at_low = True
    hookup = HookUp(shape="tester", shows="L, Q", set_to="100 Hz")
    meets = frozenset(("family told",))

    def words(self) -> str:
        """As it is read out."""
        quality = f", Q {self.q:g}" if self.q else ""
        shorted = ", ".join(ends(pair) for pair in self.shorted)
        closed = f", {shorted} shorted" if shorted else ""
        at = f" at {as_read(self.hertz, 'Hz')}" if self.hertz else ", hertz not noted"
        return f"{ends(self.across)} {as_read(self.henries, 'H')}{at}{quality}{closed}"

    def one_winding(self) -> Iterable[tuple[Pair, float]]:
        """The pair of the meter; no volts to speak of stood on it."""
        yield self.across, 0.0

    def more_than_wire(self) -> Iterable[Pair]:
        """The pair of the meter, where its reactance is more than a wire's."""
        if 2 * math.pi * (self.hertz or LEAST_HERTZ) * self.henries >= SHOWN_OHMS:
            yield self.across

    def turns_told(self) -> TurnsTold | None:
        """½ ln L of one winding: freed of its own capacitance, wide where resistance or laminations
        spoil it. REF-Q-05.
        """
        near = near_resonance(self)
        if self.shorted or near > RESONANT:
            return None
        hertz = self.hertz or UNKNOWN_HERTZ
        habit = LAMINATED_SD[0] if hertz <= LOW_HERTZ else LAMINATED_SD[1]
        read = math.hypot(limit(self, "henries") / self.henries / LIMITS_TO_SD, habit)
        spoilt = self.q is not None and self.q < SPOILT_Q
        reactance = 2 * math.pi * hertz * self.henries
        return TurnsTold(
            row="inductance",
            pairs=(self.across,),
            value=0.5 * math.log(self.henries / (1 + near)),
            spreads=(
                read + (SPOILT_SD if spoilt else 0.0),
                0.5 * SELF_FARADS[1] * near / (1 + near),
            ),
            spoilt_from=math.inf if spoilt else SPOILT_SHARE * reactance,
            spoilt=SPOILT_SD,
        )
