"""Beliefs made by hand: windings, wiring and chances as a test needs them, nothing worked out."""

from greyfell.core.belief.family import Hypothesis
from greyfell.core.belief.found import Belief, Winding
from greyfell.core.dangers.own import hazards
from greyfell.core.evidence.family_names import FAMILIES
from greyfell.core.evidence.parse import parse_record
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.identification import Identification, Judgement
from greyfell.core.judgement.verdict import Verdict
from greyfell.core.wiring.coil import Coil, Topology
from tests.conftest import piece

SUPPLY = {"volts": 230, "hertz": 50}
PROOF = {"kind": "core_proof", "ohms": 0.1}


def record(readings=(), leads="ABCD", **more):
    """A record on 230 V 50 Hz."""
    return parse_record(piece(leads, readings, **{"supply": SUPPLY, **more}))


def coil(leads="AB", ohms=5.0, bond=None, taps=(), **more):
    """A coil of so many ohms, its first lead at nought."""
    first, last = leads if isinstance(leads, tuple) else tuple(leads)
    places = {first: 0.0, last: ohms, **{t.lead: t.fraction * ohms for t in taps}}
    return Coil(
        leads=(first, last),
        taps=tuple(taps),
        bond=bond,
        ohms=Quantity(ohms, 0.98 * ohms, 1.02 * ohms),
        readings=more.pop("readings", ("r1",)),
        resolved=more.pop("resolved", True),
        positions=more.pop("positions", places),
        **more,
    )


def winding(roles, volts=None, made=None, id="W1"):
    """A winding of these roles; volts as a figure, or low, value and high."""
    if isinstance(volts, int | float):
        volts = (volts, volts, volts)
    told = None if volts is None else Quantity(volts[1], volts[0], volts[2], ("ratio r1",))
    return Winding(id, made or coil(), dict(roles), (), told)


def hypothesis(family="mains", subtype="lv", roles=("primary", "lv-secondary"), reference=0):
    """A hypothesis with nothing behind it but its names."""
    return Hypothesis(
        family=family,
        subtype=subtype,
        roles=roles,
        models=(),
        reference=reference,
        log_prior=0.0,
        halves=None,
        here=True,
        volts=230.0,
        hertz=50.0,
    )


def topology(coils=(), **more):
    """A wiring of these coils."""
    empty = {"core_leads": (), "loose": (), "untested": (), "joints": (), "leaks": ()}
    told = {**empty, "contradictions": (), "core_proved": True, "open_to_core": {}, "core_ohms": {}}
    return Topology(coils=tuple(coils), **{**told, **more})


def belief(windings=(), family="mains", sure=1.0, best=None, wiring=None, **more):
    """A belief in these windings and this family."""
    rest = (1 - sure) / (len(FAMILIES) - 1)
    families = {f: sure if f == family else rest for f in FAMILIES}
    families |= more.pop("families", {})
    return Belief(
        topology=wiring or topology([w.coil for w in windings]),
        best=best,
        index=0,
        roles=tuple(w.roles for w in windings),
        solution=more.pop("solution", None),
        outliers=(),
        families=families,
        windings=tuple(windings),
        **more,
    )


def identification(believed, faults=(), readings=(), verdict="screened", **more):
    """An identification of a belief made by hand."""
    told = record(readings, **more)
    judged = Judgement(tuple(faults), Verdict(verdict, (), ()))
    return Identification(told, believed, judged)


PRIMARY = winding({"primary": 1.0}, 230.0, coil("AB", 8.0))
OUTPUT = winding({"lv-secondary": 1.0}, 24.0, coil("CD", 0.4), id="W2")


def hazards_of(told, believed, faults=()):
    """The hazards of a record and a belief made by hand."""
    judged = Judgement(tuple(faults), Verdict("screened", (), ()))
    return hazards(Identification(told, believed, judged))
