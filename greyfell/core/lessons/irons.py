"""The two irons a hook-up is held against: a hidden piece as it is, and one's own as it is
believed.
"""

from msgspec import Struct

from greyfell.core.belief.found import Winding
from greyfell.core.errors import FieldError
from greyfell.core.figures.limits import HV_WINDING_VOLTS
from greyfell.core.judgement.gates import fed_windings
from greyfell.core.judgement.high import may_be_high
from greyfell.core.judgement.identification import Identification
from greyfell.core.simulated.hidden import Hidden, ends_of
from greyfell.core.truth.readings import induced_volts

Pair = tuple[str, str]
BURNS = {
    "shorted-turns": "its turns are shorted",
    "to-core": "a winding is at the core",
    "leak": "its insulation leaks",
    "between": "two windings touch",
}
"""Faults that burn behind the bare line."""
UNKNOWN_KILOVOLTS = 2000.0
"""Volts of a winding that may be HV and of which nobody knows more. From memory."""


class OfHidden(Struct, frozen=True):
    """A hidden piece, with its truth."""

    hidden: Hidden

    def points(self) -> tuple[str, ...]:
        """Every lead, and the core."""
        return (*(x["id"] for x in self.hidden.document["leads"]), "core")

    def made_for(self, pair: Pair) -> float | None:
        """Volts that a pair is made for; None where it is on no winding."""
        spot = self.hidden.piece.locate(*pair)
        if spot is None:
            return None
        return self.hidden.rated(spot[0]) * abs(spot[1] - spot[2])

    def across(self, driven: Pair, volts: float, pair: Pair) -> float:
        """Volts on a pair with another driven; nought where they are on no winding. REF-M-02."""
        try:
            return float(
                induced_volts(self.hidden.piece, driven, volts, pair, self.hidden.region.hertz)
            )
        except FieldError:
            return 0.0

    def mains(self) -> Pair | None:
        """The pair that the line goes on."""
        return self.hidden.fed

    def supply(self) -> float:
        """Volts of the line."""
        return self.hidden.region.volts

    def high(self) -> tuple[Pair, ...]:
        """Windings of high voltage, end to end, and each end to the core where it is one."""
        found = [w for w in self.hidden.piece.windings if self.hidden.rated(w) > HV_WINDING_VOLTS]
        return tuple(ends_of(w) for w in found)

    def faulty(self) -> str:
        """What would burn behind the line."""
        return next((BURNS[f] for f in self.hidden.faults if f in BURNS), "")


class OfBelief(Struct, frozen=True):
    """One's own piece as its record has it: what is not known counts as the worst."""

    ident: Identification

    def points(self) -> tuple[str, ...]:
        """Every lead, and the core."""
        return (*(x.id for x in self.ident.record.leads), "core")

    def made_for(self, pair: Pair) -> float | None:
        """Volts that a pair is made for; None where it is on no winding."""
        w, share = self._spot(pair)
        if w is None:
            return None
        return self._volts(w) * share

    def across(self, driven: Pair, volts: float, pair: Pair) -> float:
        """Volts on a pair with another driven, by the ratio of what both are made for. REF-M-02."""
        one, two = self.made_for(driven), self.made_for(pair)
        if one is None or two is None or one <= 0:
            return 0.0
        return volts * two / one

    def mains(self) -> Pair | None:
        """The pair that the line goes on."""
        fed = fed_windings(self.ident)
        return tuple(fed[0].coil.leads[:2]) if fed else None  # type: ignore[return-value]

    def supply(self) -> float:
        """Volts of the line."""
        return self.ident.record.supply.volts

    def high(self) -> tuple[Pair, ...]:
        """Windings that may be of high voltage, end to end."""
        found = [w for w in self.ident.windings if may_be_high(w)]
        return tuple((w.coil.leads[0], w.coil.leads[-1]) for w in found if len(w.coil.leads) > 1)

    def faulty(self) -> str:
        """What would burn behind the line: any stop that stands."""
        stop = self.ident.stop
        return "" if stop is None else f"a stop stands on it ({stop.words})"

    def _spot(self, pair: Pair) -> tuple[Winding | None, float]:
        for w in self.ident.windings:
            members = {*w.coil.members, *(["core"] if w.coil.bond is not None else [])}
            if set(pair) <= members:
                share = w.coil.fraction_between(*pair)
                return w, 1.0 if share is None else share
        return None, 0.0

    def _volts(self, w: Winding) -> float:
        if w in fed_windings(self.ident):
            return self.ident.record.supply.volts
        if w.volts is not None:
            return w.volts.high
        return UNKNOWN_KILOVOLTS if may_be_high(w) else self.ident.record.supply.volts
