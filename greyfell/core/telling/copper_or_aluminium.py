"""Copper or aluminium: three ways to tell the metal of a winding, with what its own ohms and bare
wire would mean in metres of either.
"""

from greyfell.core.evidence.record import Lead
from greyfell.core.figures.notation import span
from greyfell.core.figures.wire import METALS, area_mm2
from greyfell.core.judgement.identification import Identification

WIRE_SHARE = 0.05
"""How far a bare diameter read with a slide gauge may be off. From memory."""
SCRAPE = (
    "Scrape the lacquer off: copper is red all through. Silver may be aluminium, or tin over "
    "copper; red outside and silver where it is cut is copper over aluminium, and counts as "
    "aluminium."
)
WEIGH = (
    "Weigh what is cut out: a hundred metres of 1 mm² are {copper:.2f} kg in copper, "
    "{aluminium:.2f} kg in aluminium."
)


def metres(ohms: float, millimetres: float, metal: str) -> float:
    """Metres of round wire of a metal that have so many ohms at 20 °C. R = ρ·l/A, REF-W-02.

    >>> round(metres(1.724, 1.1284, "copper"))
    100
    """
    return ohms * area_mm2(millimetres) * 1e-6 / METALS[metal].ohm_m


def telling(ident: Identification, lead: Lead) -> tuple[str, ...]:
    """The ways to tell the metal of a lead's winding, in the order of trust: by scraping, by the
    metres that its ohms mean, by weight. Nothing where the metal is on record.
    """
    if lead.material:
        return ()
    kilograms = {metal: METALS[metal].kg_m3 * 1e-6 * 100 for metal in METALS}
    return (SCRAPE, *_by_ohms(ident, lead), WEIGH.format(**kilograms))


def _by_ohms(ident: Identification, lead: Lead) -> tuple[str, ...]:
    """The metres of either metal, where the winding was read and its wire is known."""
    coil = next((w.coil for w in ident.windings if lead.id in w.coil.members), None)
    if coil is None or coil.broken or coil.unread or not lead.wire_mm:
        return ()
    wire = (lead.wire_mm * (1 - WIRE_SHARE), lead.wire_mm * (1 + WIRE_SHARE))
    found = {
        metal: span(
            metres(coil.ohms.low, wire[0], metal), metres(coil.ohms.high, wire[1], metal), "m"
        )
        for metal in METALS
    }
    return (
        f"By its ohms and a wire of {lead.wire_mm:g} mm {'–'.join(coil.leads)} is "
        f"{found['copper']} of copper or {found['aluminium']} of aluminium: measure one turn, "
        "multiply by its turns, and see which it is.",
    )
