"""What must be said where an act happens: one declaration a sentence, with the acts it belongs to;
at most two at a time, and at no other act. What handling a family of piece asks for besides stands
in `judgement.handling`.

All of it is common practice unless a sentence's source says otherwise.
"""

from msgspec import Struct

from greyfell.core.judgement.high import EITHER


class Caution(Struct, frozen=True, kw_only=True):
    """One sentence, and the acts it is said at."""

    sentence: str
    acts: tuple[str, ...]


CAUTIONS = (
    # ------------------------------------------------------------ salvage
    Caution(
        sentence="Not alone: someone is near who knows where the switch is.",
        acts=("plug",),
    ),
    Caution(
        sentence="Treat it as charged, whatever its age and whoever says it is not.",
        acts=("capacitor", "found"),
    ),
    Caution(
        sentence="A bleeder inside it is not to be trusted: it takes minutes when sound.",
        acts=("found",),
    ),
    Caution(
        sentence="A chain that reads open discharges nothing; no chain is held in the fingers.",
        acts=("chain",),
    ),
    Caution(
        sentence="One hand away lowers the chance of a path through you; it makes nothing safe.",
        acts=("holding",),
    ),
    Caution(
        sentence="A screwdriver across it arcs, damages, startles: only if nothing else is there.",
        acts=("holding",),
    ),
    Caution(
        sentence="The can is a terminal too: with one side on it, half of it may stand there.",
        acts=("held",),
    ),
    Caution(
        sentence="Only after this the meter: a failed chain would put kilovolts on it.",
        acts=("short",),
    ),
    Caution(
        sentence="A loud snap means the chain did nothing: begin again.",
        acts=("short",),
    ),
    Caution(
        sentence="Without a meter this gate stays shut: nobody can say that it is empty.",
        acts=("proved",),
    ),
    Caution(
        sentence="Nought is believed only of a meter proved just before, in this mode and range.",
        acts=("measured",),
    ),
    Caution(
        sentence="What stood there comes back by itself from the dielectric; do not touch it yet.",
        acts=("again",),
    ),
    Caution(
        sentence="A short that is taken off again is no short: the volts can return.",
        acts=("clip",),
    ),
    Caution(
        sentence="Not alone.",
        acts=("capacitor",),
    ),
    Caution(
        sentence="Plug out and in sight.",
        acts=("none here",),
    ),
    # ------------------------------------------------------------ cutting free and looking
    Caution(
        sentence="Label both sides of a lead, photograph it, note where it went; then cut.",
        acts=("cut free",),
    ),
    Caution(
        sentence="A colour is never trusted alone: an ohm decides.",
        acts=("look",),
    ),
    # ------------------------------------------------------------ cold
    Caution(
        sentence="Nothing is powered.",
        acts=("core proof", "ohms", "order", "place", "open to core", "repeat"),
    ),
    Caution(
        sentence="Fingers off the probe tips.",
        acts=("open to core",),
    ),
    Caution(
        sentence="Power nothing. No statement overrides this fault; only a better reading clears "
        "it.",
        acts=("clear", "clear insulation"),
    ),
    Caution(
        sentence="The tester puts its volts on every lead of that winding: hands off until it is "
        "down.",
        acts=("clear insulation", "insulation"),
    ),
    # ------------------------------------------------------------ low energy
    Caution(
        sentence="Short the HV winding first and ramp down before you open the circuit: it kicks.",
        acts=("milliohms",),
    ),
    Caution(
        sentence="Isolated source, core earthed, never on the heater winding.",
        acts=("reverse ratio",),
    ),
    Caution(
        sentence="Every terminal stays at or below the drive; more out than in is the wrong "
        "winding.",
        acts=("reverse ratio",),
    ),
    Caution(
        sentence="An isolated source: a few volts behind a variac alone float at mains.",
        acts=("ratio",),
    ),
    Caution(
        sentence="Work out every open winding before power: above 30 V it counts as live.",
        acts=("ratio", "polarity"),
    ),
    Caution(
        sentence=(
            "With an HV winding on the core even 3 V makes it live: work its volts out first, keep "
            "its ends covered, one hand."
        ),
        acts=("cautious ratio",),
    ),
    Caution(
        sentence="With an HV winding present, low drive only and wire with kilovolt insulation.",
        acts=("test turns",),
    ),
    Caution(
        sentence="Nothing is powered; the meter's own volts only.",
        acts=("inductance",),
    ),
    Caution(
        sentence="A current-limited source of a few volts; nothing else is powered.",
        acts=("bond",),
    ),
    # ------------------------------------------------------------ live
    Caution(
        sentence="Plug out and in sight while anything is clipped.",
        acts=("set-up",),
    ),
    Caution(
        sentence="The lamp protects iron, not people: behind it the HV is nearly full.",
        acts=("first power", "first power high"),
    ),
    Caution(
        sentence=(
            "A residual-current device does not protect anyone touching an isolated winding."
        ),
        acts=("first power",),
    ),
    Caution(
        sentence="{share} of its output stands to earth: one terminal touched kills as two do.",
        acts=("first power high",),
    ),
    Caution(
        sentence="No one lasts long enough at it to learn: hands behind you, one near the switch.",
        acts=("no load high",),
    ),
    Caution(
        sentence="Start at nought: switched in at full volts, iron may draw ten times and more.",
        acts=("no load", "no load high"),
    ),
    Caution(
        sentence="Clips on before power, off after: nothing is held on a live pair.",
        acts=("live volts",),
    ),
    Caution(
        sentence="Rings and watch off: a short of few volts melts metal in the hand.",
        acts=("shorted",),
    ),
    Caution(
        sentence="Down to nought before it is opened: what is cut off under amps kicks.",
        acts=("shorted", "shorted high"),
    ),
    Caution(
        sentence="A short that is none leaves kilovolts: bolted, at the core, covered.",
        acts=("shorted high",),
    ),
)
ACTS = tuple(dict.fromkeys(act for caution in CAUTIONS for act in caution.acts))
"""Every act something is said at."""


ACTS = tuple(dict.fromkeys(act for c in CAUTIONS for act in c.acts))
"""Every act at which something is said, in the order of the work."""


def said_at(act: str, share: str = EITHER) -> tuple[str, ...]:
    """What is said at an act, in the order of the table; `share` is what of the HV stands to
    earth.
    """
    told = (caution.sentence for caution in CAUTIONS if act in caution.acts)
    return tuple(sentence.format(share=share) for sentence in told)
