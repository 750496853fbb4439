"""A sign part that trips: how its trip unit is known, what trips it, and the low-energy tests that
part the causes. Bypassing it is named and refused.
"""

from msgspec import Struct

KNOWN_BY = (
    "a third, thin lead on the HV's middle, or a small board beside the primary",
    "a reset by the switch: off for seconds, then it comes back and goes again",
    "“secondary ground fault protected” or a trip current in mA on the plate (UL 2161)",
)
"""How a trip unit is known."""
BYPASS = (
    "The unit is not bypassed, bridged or cut out: it trips since current goes to earth beside the "
    "tube, and the arc that it ends burns walls. No step is offered for it."
)


class Cause(Struct, frozen=True, kw_only=True):
    """What trips it, how often, the low-energy test that tells it, what it shows, what is done."""

    key: str
    title: str
    share: str
    test: str
    shows: str
    mend: str


CAUSES: tuple[Cause, ...] = (
    Cause(
        key="wet",
        title="Wet or dirty cable, glass or boot",
        share="the most usual",
        test="Plug out, tube and cables off the part: 500 V from each HV cable to earth, dry and "
        "breathed upon",
        shows="below 100 MΩ, or falling with breath",
        mend="Dry, clean, new boots; cable 50 mm off metal.",
    ),
    Cause(
        key="cable",
        title="Cable pierced or too long in a metal pipe",
        share="usual",
        test="500 V and capacitance from each cable to the pipe, tube off",
        shows="below 100 MΩ, or above 150 pF a metre",
        mend="New cable, shorter, no more than the plate allows in metal.",
    ),
    Cause(
        key="uneven",
        title="Halves loaded unevenly",
        share="usual with long signs",
        test="Length of tube on each side of the middle, by tape",
        shows="more than a tenth of the whole apart",
        mend="Tube moved to the other side of the middle, or a part for each.",
    ),
    Cause(
        key="open-tube",
        title="A tube broken or gassed: open circuit",
        share="usual",
        test="The tubes looked through by daylight; each tried on another part by its owner's shop",
        shows="a crack, a black electrode, no glow",
        mend="The tube; the part works as it should.",
    ),
    Cause(
        key="half",
        title="One half of the HV shorted or open",
        share="seldom",
        test="Ohms and inductance of each half, end to middle, plug out",
        shows="halves more than a twentieth apart",
        mend="The part is condemned; nothing is wound on it.",
    ),
    Cause(
        key="unit",
        title="The unit itself",
        share="seldom",
        test="All HV off and covered, behind a lamp of 40 W, from a distance: does it trip with "
        "nothing on it?",
        shows="trips with nothing connected",
        mend="The part is replaced whole, by one of its kind.",
    ),
)
"""Common practice; UL 2161 and EN 50107-1, from memory."""
