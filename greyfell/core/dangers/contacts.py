"""Every point of a piece against every other one, the core and earth: volts, what goes through a
body, the zone, what a residual-current device does there; and the same after each single failure.

What is not known counts as the worst of its kind; nothing here is ever called safe.
"""

import itertools
from collections.abc import Iterator

from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.belief.found import Winding
from greyfell.core.bench.piece_on_bench import needs_of
from greyfell.core.families.registry import does
from greyfell.core.figures.limits import MAINS_RISE, UNREAD_LEAKAGE_AMPS
from greyfell.core.figures.notation import engineering
from greyfell.core.isolation.body import ZONES, body_ohms, zone
from greyfell.core.judgement.gates import fed_windings
from greyfell.core.judgement.high import may_be_high
from greyfell.core.judgement.identification import Identification

EARTH = "earth"
HELD_SECONDS, TRIPPED_SECONDS = 10.0, 0.3
"""A hand that cannot let go; a device for persons at its slowest. IEC 61008-1."""
WORST_KILOVOLTS = 5000.0
"""Volts of a winding that may be HV and whose volts nobody knows. From memory."""
SURE = 0.95
"""From this chance of a family whose leakage limits it the amps that it gives shorted count."""
ENOUGH_AMPS = 1.0
"""Above this nobody needs the figure."""
UNKNOWN_VOLTS = MAINS_RISE * 230.0
SEES, BLIND, NONE = "opens at 30 mA", "sees nothing", "sees nothing: the current stays inside"


class Contact(Struct, frozen=True, kw_only=True):
    """Two points with a body across them: most volts, amps through the lowest body of twenty, the
    zone at the time it lasts, what a residual-current device ahead does; whether the volts are
    known or the worst that may be; after which failure.
    """

    one: str
    two: str
    volts: float
    amps: float
    zone: str
    device: str
    known: bool
    after: str = ""

    @property
    def kills(self) -> bool:
        """Whether the heart may stop."""
        return self.zone == ZONES[-1]

    @property
    def words(self) -> str:
        """In a line."""
        volts = engineering(self.volts, "V")
        may = "" if self.known else "may be "
        amps = "more than 1 A" if self.amps > ENOUGH_AMPS else engineering(self.amps, "A")
        return f"{self.one} to {self.two}: {may}{volts}, {amps} through a body, {self.zone}"

    def as_json(self) -> dict[str, object]:
        """The public form."""
        return {
            "between": [self.one, self.two],
            "volts": self.volts,
            "body_amps": self.amps,
            "zone": self.zone,
            "device": self.device,
            "known": self.known,
            "after": self.after,
        }


def body_amps(volts: float, most: float | None = None) -> float:
    """Amps through the lowest body of twenty at so many volts, no more than the source gives. V, A.
    IEC 60479-1 table 1.

    >>> round(body_amps(230.0), 3), body_amps(2000.0, 0.03)
    (0.299, 0.03)
    """
    amps = volts / body_ohms(volts)[0]
    return amps if most is None else min(amps, most)


def contacts(ident: Identification) -> list[Contact]:
    """Every pair with the piece fed as its record says, the worst first."""
    needs = needs_of(ident)
    fed = {x for w in fed_windings(ident) for x in w.coil.members}
    found = []
    for w in ident.windings:
        points = sorted({*w.coil.members, *(["core"] if w.coil.bond is not None else [])})
        limit = _most_amps(ident, w)
        for pair in itertools.combinations(points, 2):
            volts = needs.volts_of(pair)
            found.append(_contact(pair, volts if volts is not None else _worst(w), limit))
            if volts is None:
                found[-1] = _unknown(found[-1])
        found += [_to_earth(ident, w, x) for x in points if x != "core"]
    if not ident.windings:
        leads = [x.id for x in ident.record.leads]
        found = [_unknown(_contact((x, EARTH), WORST_KILOVOLTS, None)) for x in leads]
    if "core" not in fed:
        found += list(_core(ident))
    return sorted(found, key=_order)


def _order(c: Contact) -> tuple[int, float]:
    return -ZONES.index(c.zone), -c.amps


def _contact(
    pair: tuple[str, str],
    volts: float,
    limit: float | None,
    *,
    device: str = NONE,
    after: str = "",
) -> Contact:
    amps = body_amps(volts, limit)
    seconds = TRIPPED_SECONDS if device == SEES else HELD_SECONDS
    return Contact(
        one=pair[0],
        two=pair[1],
        volts=volts,
        amps=amps,
        zone=zone(amps, seconds),
        device=device,
        known=True,
        after=after,
    )


def _unknown(c: Contact) -> Contact:
    """The same, of volts that nobody knows."""
    return replace(c, known=False)


def _worst(w: Winding) -> float:
    """Volts of a winding of which nobody knows them."""
    return WORST_KILOVOLTS if may_be_high(w) else UNKNOWN_VOLTS


def _most_amps(ident: Identification, w: Winding) -> float | None:
    """The most that a winding gives into a body: a sign's, whose leakage limits it, its amps
    shorted; no limit where that is not sure.
    """
    amps = does(ident.family).most_amps
    return amps if may_be_high(w) and ident.sure >= SURE else None


def _to_earth(ident: Identification, w: Winding, lead: str) -> Contact:
    """A lead against earth, the core earthed as it must be."""
    pair = (lead, EARTH)
    if w in fed_windings(ident):
        line = MAINS_RISE * ident.record.supply.volts
        return _contact(pair, line, None, device=SEES)
    if w.coil.bond is not None:
        volts = _to_core(ident, w, lead)
        found = _contact(pair, volts, _most_amps(ident, w), device=BLIND)
    else:
        volts = _worst(w) if w.volts is None else MAINS_RISE * w.volts.high
        limit = _most_amps(ident, w) if may_be_high(w) else UNREAD_LEAKAGE_AMPS
        found = _contact(pair, volts, limit, device=BLIND)
    return found if w.volts is not None else _unknown(found)


def _to_core(ident: Identification, w: Winding, lead: str) -> float:
    """Volts of a lead of a bonded winding to the iron."""
    told = needs_of(ident).volts_of((lead, "core"))
    return _worst(w) if told is None else told


def _core(ident: Identification) -> Iterator[Contact]:
    """The core against earth, bonded: nothing but what leaks."""
    yield _contact(("core", EARTH), 1.0, UNREAD_LEAKAGE_AMPS, device=SEES)


def after_failures(ident: Identification) -> list[Contact]:
    """What a hand finds after each single failure: a barrier broken, the bond off; the worst pair
    of each.
    """
    line = MAINS_RISE * ident.record.supply.volts
    out = []
    fed = fed_windings(ident)
    if fed:
        broken = "the primary's barrier to the core breaks, the bond is off"
        out.append(_contact(("core", EARTH), line, None, device=SEES, after=broken))
    for w in ident.windings:
        if w in fed:
            continue
        name = w.name
        if w.coil.bond is None and fed:
            after = f"the barrier between the mains and {name} breaks"
            lead = w.coil.leads[0]
            out.append(_contact((lead, EARTH), line, None, device=SEES, after=after))
        if w.coil.bond is not None and may_be_high(w):
            leads = [x for x in w.coil.leads if x != "core"]
            volts = max((_to_core(ident, w, x) for x in leads), default=_worst(w))
            after = "the core's wire to earth comes off"
            limit = _most_amps(ident, w)
            found = _contact(("core", EARTH), volts, limit, device=BLIND, after=after)
            out.append(found if w.volts is not None else _unknown(found))
    return sorted(out, key=_order)
