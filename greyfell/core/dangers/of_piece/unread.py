"""What is to be read, or was read against it, before power."""

from collections.abc import Iterator

from greyfell.core.dangers.rule import CAUTION, POWER, STOP, Facts, Rule, piece
from greyfell.core.figures.limits import MOST_FLUX
from greyfell.core.judgement.earthing import bond_of
from greyfell.core.judgement.gates import fed_windings, polarity_wanted
from greyfell.core.judgement.high import may_be_high
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.rated_mains import flux_share


def _bonded_low(ident: Identification) -> Iterator[Facts]:
    """A low winding that conducts to the core, by fault or by design."""
    fed = fed_windings(ident)
    for w in ident.windings:
        if w not in fed and w.coil.bond is not None and not may_be_high(w):
            yield {"ends": w.name}


def _open_bond(ident: Identification) -> bool:
    bond = bond_of(ident.record, ident.topology.core_leads)
    return bond is not None and not bond.proved


def _over_plate(ident: Identification) -> Iterator[Facts]:
    """Volts per hertz of this supply over what the piece was made for."""
    share = flux_share(ident.record, ident.belief)
    if share is not None and share > MOST_FLUX:
        yield {"percent": f"{100 * share:.0f}"}


RULES = (
    Rule(
        code="polarity-first",
        ids=("H27", "H85"),
        near=POWER,
        severity=STOP,
        condition="two halves of which the polarity was not read",
        cleared="the polarity of both halves read",
        headline="Halves joined the wrong way are a short.",
        reason="Two windings across each other add to a short, in series to nothing; half a "
        "primary on the whole line has double flux.",
        instead="Polarity by a reading at a low drive; joined through a lamp.",
        when=piece(polarity_wanted),
    ),
    Rule(
        code="bonded-low",
        ids=("H62",),
        near=POWER,
        severity=CAUTION,
        condition="a low winding conducts to the core",
        cleared="the winding read open to the core, or told to be bonded by design",
        headline="{ends} is tied to the iron: by design?",
        reason="Site and protective low-voltage parts are bonded on purpose; a fault looks alike.",
        instead="Ask where it came from; shut until that is answered, not condemned.",
        when=piece(_bonded_low),
    ),
    Rule(
        code="bond-open",
        ids=("H80", "H69"),
        near=POWER,
        severity=STOP,
        condition="the bond was read above a tenth of an ohm",
        cleared="the bond read at no more than a tenth of an ohm",
        headline="The earth bond is open or poor.",
        reason="Above a tenth of an ohm a fault leaves the iron live and nothing opens.",
        instead="Bare metal, star washer, read again with an ampere, before any power.",
        source="IEC 60335-1 cl. 27",
        when=piece(_open_bond),
    ),
    Rule(
        code="over-plate",
        ids=("H84", "H41"),
        near=POWER,
        severity=STOP,
        condition="the supply's volts per hertz are above 110 % of what it was made for",
        cleared="a supply of its own volts per hertz",
        headline="Made for other mains: {percent} % flux.",
        reason="A 60 Hz or 120 V part on this line saturates and burns.",
        instead="Its own volts per hertz, from a source that gives them.",
        when=piece(_over_plate),
    ),
)
"""What the record still lacks, or says against power."""
