"""Short answers that stand beside an act: why one pole is earthed, what a trip sees, what isolation
does not stop. Each says where it stands. Common practice and IEC 60479, IEC 61140, told shortly.
"""

from msgspec import Struct

POWER, ISOLATED, RIG, TRIPS, DANGERS = "power", "isolated", "rig", "trips", "dangers"
PLACES = (POWER, ISOLATED, RIG, TRIPS, DANGERS)
"""Pages that have acts with a question beside them."""


class Short(Struct, frozen=True, kw_only=True):
    """One question with its answer of a sentence or two, the pages it stands on, its source."""

    key: str
    question: str
    answer: str
    places: tuple[str, ...]
    source: str


SHORTS = (
    Short(
        key="one-pole",
        question="Why is one pole earthed, and only one?",
        answer=(
            "So that the first fault from the other pole to the case is a short that a fuse or a "
            "trip clears at once. With none earthed the first fault is silent and the second "
            "bites; with both earthed it is a short from the start."
        ),
        places=(RIG, ISOLATED),
        source="IEC 60364-4-41; common practice",
    ),
    Short(
        key="trip-sees",
        question="What does a residual-current device see?",
        answer=(
            "Amps that leave by one of its two wires and do not come back by the other: a body "
            "from line to earth, ahead of any isolating winding. Not a body between the two wires, "
            "not anything on an output that floats or returns through the core, and with direct "
            "current in it, type AC may see nothing at all."
        ),
        places=(POWER, RIG, TRIPS, DANGERS),
        source="IEC 61008-1; IEC 60755 for the types",
    ),
    Short(
        key="fuse-sees",
        question="What does a fuse or breaker see?",
        answer=(
            "Amps over seconds, enough to melt copper: 13 A for a minute are nothing to it, and a "
            "body takes a hundredth of that. It guards the cable and the winding, never a person."
        ),
        places=(POWER, TRIPS),
        source="IEC 60898-1; IEC 60479-1",
    ),
    Short(
        key="isolation-stops",
        question="What does isolation not stop?",
        answer=(
            "Both poles at once, which is the whole voltage through a body; a first fault nobody "
            "notices; a clip or a case that earths one side; arcs, burns, charge in capacitors. It "
            "takes one way through earth away, and with it the trip that watched that way."
        ),
        places=(ISOLATED, DANGERS),
        source="IEC 61140; IEC 60479-1",
    ),
    Short(
        key="half-to-case",
        question="Why does each end show half to the case?",
        answer=(
            "Its middle stands on the core, so each end is half the volts from it. End to end is "
            "still the whole, and half of 10 kV kills as surely."
        ),
        places=(POWER, DANGERS),
        source="REF-T-06; common practice",
    ),
    Short(
        key="ghost",
        question="Why do volts stand on a winding joined to nothing?",
        answer=(
            "Windings are plates of a capacitor: some hundred picofarads let microamps through, "
            "and a meter of 10 MΩ shows them as half the line. A meter of few ohms makes them "
            "fall; what does not fall is no ghost."
        ),
        places=(POWER, ISOLATED),
        source="references 7; common practice",
    ),
    Short(
        key="lamp-ahead",
        question="Why a lamp ahead the first time?",
        answer=(
            "It lets through what its watts allow and no more: a short makes it bright instead of "
            "a bang. It limits amps into the piece; it makes no output safe to touch."
        ),
        places=(POWER, RIG),
        source="REF-B-05; common practice",
    ),
    Short(
        key="core-bonded",
        question="Why is the core bonded, whatever floats?",
        answer=(
            "It is what a hand meets first. A winding that touches it then shorts to earth and is "
            "seen; not bonded, the whole iron waits at the winding's volts."
        ),
        places=(POWER, ISOLATED, RIG),
        source="IEC 61140 class I",
    ),
)
"""Every short answer."""


def shorts_at(place: str) -> tuple[Short, ...]:
    """The answers that stand on a page. Raises KeyError where there is no such page."""
    if place not in PLACES:
        raise KeyError(place)
    return tuple(s for s in SHORTS if place in s.places)
