"""What the gate knows of a piece and the strip does not say: what is to be read before power."""

from collections.abc import Iterator

from greyfell.core.danger.scene import Scene
from greyfell.core.danger.told import CAUTION, HAND, POWER, STOP, DangerRule, Facts
from greyfell.core.figures.limits import MOST_FLUX
from greyfell.core.judgement.charge import may_hold_charge
from greyfell.core.judgement.earthing import bond_of
from greyfell.core.judgement.gates import polarity_wanted, salvaged
from greyfell.core.judgement.high import may_be_high
from greyfell.core.judgement.made_for import flux_share


def _charged(s: Scene) -> bool:
    """A capacitor may be near, and nobody said that it is empty or none."""
    if s.ident is None:
        return False
    return may_hold_charge(s.ident.record, s.ident.belief) and not salvaged(s.ident)


def _bonded_low(s: Scene) -> Iterator[Facts]:
    """A low winding that conducts to the core, by fault or by design."""
    for w in s.outputs:
        if w.coil.bond is not None and not may_be_high(w):
            yield {"ends": w.name}


def _open_bond(s: Scene) -> bool:
    bond = bond_of(s.ident.record, s.ident.topology.core_leads) if s.ident is not None else None
    return bond is not None and not bond.proved


def _over_plate(s: Scene) -> Iterator[Facts]:
    """Volts per hertz of this supply over what the piece was made for."""
    share = flux_share(s.ident.record, s.ident.belief) if s.ident is not None else None
    if share is not None and share > MOST_FLUX:
        yield {"percent": f"{100 * share:.0f}"}


RULES = (
    DangerRule(
        code="capacitor-first",
        ids=("H03", "H02", "H04", "H05"),
        near=HAND,
        severity=STOP,
        condition="a capacitor may hold a charge, and nothing says that it is empty",
        headline="First the capacitor, before any ohm.",
        reason="Its bleeder may have failed: kilovolts stand there for days.",
        instead="Resistor string, wait, meter, wait again, clip left on; or say there is none.",
        when=_charged,
    ),
    DangerRule(
        code="polarity-first",
        ids=("H27", "H85"),
        near=POWER,
        severity=STOP,
        condition="two halves of which the polarity was not read",
        headline="Halves joined the wrong way are a short.",
        reason="Two windings across each other add to a short, in series to nothing; half a "
        "primary on the whole line has double flux.",
        instead="Polarity by a reading at a low drive; joined through a lamp.",
        when=lambda s: s.ident is not None and polarity_wanted(s.ident),
    ),
    DangerRule(
        code="bonded-low",
        ids=("H62",),
        near=POWER,
        severity=CAUTION,
        condition="a low winding conducts to the core",
        headline="{ends} is tied to the iron: by design?",
        reason="Site and protective low-voltage parts are bonded on purpose; a fault looks alike.",
        instead="Ask where it came from; shut until that is answered, not condemned.",
        when=_bonded_low,
    ),
    DangerRule(
        code="bond-open",
        ids=("H80", "H69"),
        near=POWER,
        severity=STOP,
        condition="the bond was read above a tenth of an ohm",
        headline="The earth bond is open or poor.",
        reason="Above a tenth of an ohm a fault leaves the iron live and nothing opens.",
        instead="Bare metal, star washer, read again with an ampere, before any power.",
        source="IEC 60335-1 cl. 27",
        when=_open_bond,
    ),
    DangerRule(
        code="over-plate",
        ids=("H84", "H41"),
        near=POWER,
        severity=STOP,
        condition="the supply's volts per hertz are above 110 % of what it was made for",
        headline="Made for other mains: {percent} % flux.",
        reason="A 60 Hz or 120 V part on this line saturates and burns.",
        instead="Its own volts per hertz, from a source that gives them.",
        when=_over_plate,
    ),
)
"""What the record still lacks, or says against power."""
