"""What must be said where an act happens: one row a sentence, with the acts it belongs to; at most
two at a time, and at no other act. What handling a family of piece asks for besides stands in
`of_handling`.
"""

from greyfell.core.dangers.of_bench import LIVE_ACTS
from greyfell.core.dangers.rule import CAUTION, HAND, Facts, Rule
from greyfell.core.dangers.scene import Scene
from greyfell.core.judgement.high import EITHER, share_to_earth


def _share(scene: Scene) -> list[Facts]:
    """What of the high voltage stands to earth."""
    return [{"share": EITHER if scene.ident is None else share_to_earth(scene.ident.belief)}]


def _said(code: str, headline: str, sentence: str, *acts: str, ids: tuple[str, ...] = ()) -> Rule:
    """A row: its code and headline, what is said, at which acts, and the numbers it meets."""
    return Rule(
        code=code,
        ids=ids,
        near=HAND,
        severity=CAUTION,
        condition=f"at the act: {', '.join(acts)}",
        headline=headline,
        reason=sentence,
        acts=acts,
        when=_share,
    )


TESTER_ACTS = ("clear insulation", "insulation")
"""Acts that put an insulation tester's volts on."""
ROWS = (
    # ------------------------------------------------------------ salvage
    _said(
        "switch-known",
        "Not alone, and the switch is known.",
        "Not alone: someone is near who knows where the switch is.",
        "plug",
        ids=("H56",),
    ),
    _said(
        "take-for-charged",
        "Treat it as charged.",
        "Treat it as charged, whatever its age and whoever says it is not.",
        "capacitor",
        "found",
        ids=("H02",),
    ),
    _said(
        "bleeder-inside",
        "Its bleeder is not to be trusted.",
        "A bleeder inside it is not to be trusted: it takes minutes when sound.",
        "found",
    ),
    _said(
        "open-chain",
        "An open chain discharges nothing.",
        "A chain that reads open discharges nothing; no chain is held in the fingers.",
        "chain",
        ids=("H06",),
    ),
    _said(
        "one-hand-away",
        "One hand away makes nothing safe.",
        "One hand away lowers the chance of a path through you; it makes nothing safe.",
        "holding",
        ids=("H07",),
    ),
    _said(
        "no-screwdriver",
        "No screwdriver across it.",
        "A screwdriver across it arcs, damages, startles: only if nothing else is there.",
        "holding",
        ids=("H04",),
    ),
    _said(
        "can-too",
        "The can is a terminal too.",
        "The can is a terminal too: with one side on it, half of it may stand there.",
        "held",
    ),
    _said(
        "meter-after",
        "The meter only after this.",
        "Only after this the meter: a failed chain would put kilovolts on it.",
        "short",
    ),
    _said(
        "loud-snap",
        "A loud snap: begin again.",
        "A loud snap means the chain did nothing: begin again.",
        "short",
    ),
    _said(
        "no-meter",
        "Without a meter it stays shut.",
        "Without a meter this gate stays shut: nobody can say that it is empty.",
        "proved",
    ),
    _said(
        "proved-nought",
        "Nought only of a proved meter.",
        "Nought is believed only of a meter proved just before, in this mode and range.",
        "measured",
    ),
    _said(
        "comes-back",
        "What stood there comes back.",
        "What stood there comes back by itself from the dielectric; do not touch it yet.",
        "again",
        ids=("H05",),
    ),
    _said(
        "short-stays",
        "The short stays on.",
        "A short that is taken off again is no short: the volts can return.",
        "clip",
    ),
    _said("not-alone-here", "Not alone.", "Not alone.", "capacitor"),
    _said(
        "plug-in-sight",
        "Plug out and in sight.",
        "Plug out and in sight.",
        "none here",
        ids=("H01",),
    ),
    # ------------------------------------------------------------ cutting free and looking
    _said(
        "label-first",
        "Label both sides, then cut.",
        "Label both sides of a lead, photograph it, note where it went; then cut.",
        "cut free",
    ),
    _said(
        "colours",
        "A colour is never trusted alone.",
        "A colour is never trusted alone: an ohm decides.",
        "look",
    ),
    # ------------------------------------------------------------ cold
    _said(
        "nothing-powered",
        "Nothing is powered.",
        "Nothing is powered.",
        "core proof",
        "ohms",
        "order",
        "place",
        "open to core",
        "repeat",
    ),
    _said(
        "fingers-off",
        "Fingers off the probe tips.",
        "Fingers off the probe tips.",
        "open to core",
    ),
    _said(
        "no-statement",
        "No statement overrides this fault.",
        "Power nothing. No statement overrides this fault; only a better reading clears it.",
        "clear",
        "clear insulation",
    ),
    _said(
        "tester-volts",
        "The tester's volts are on every lead.",
        "The tester puts its volts on every lead of that winding: hands off until it is down.",
        *TESTER_ACTS,
    ),
    # ------------------------------------------------------------ low energy
    _said(
        "short-the-high",
        "Short the HV winding first.",
        "Short the HV winding first and ramp down before you open the circuit: it kicks.",
        "milliohms",
    ),
    _said(
        "reverse-source",
        "Isolated, earthed, never the heater.",
        "Isolated source, core earthed, never on the heater winding.",
        "reverse ratio",
    ),
    _said(
        "more-than-in",
        "More out than in: the wrong winding.",
        "Every terminal stays at or below the drive; more out than in is the wrong winding.",
        "reverse ratio",
    ),
    _said(
        "isolated-source",
        "An isolated source, no variac alone.",
        "An isolated source: a few volts behind a variac alone float at mains.",
        "ratio",
    ),
    _said(
        "open-windings",
        "Every open winding is worked out first.",
        "Work out every open winding before power: above 30 V it counts as live.",
        "ratio",
        "polarity",
    ),
    _said(
        "three-volts",
        "Even 3 V makes its HV live.",
        "With an HV winding on the core even 3 V makes it live: work its volts out first, keep its "
        "ends covered, one hand.",
        "cautious ratio",
    ),
    _said(
        "low-drive-only",
        "Low drive only, insulated wire.",
        "With an HV winding present, low drive only and wire with kilovolt insulation.",
        "test turns",
    ),
    _said(
        "meter-volts-only",
        "The meter's own volts only.",
        "Nothing is powered; the meter's own volts only.",
        "inductance",
    ),
    _said(
        "few-volts-only",
        "A few volts, current-limited, nothing else.",
        "A current-limited source of a few volts; nothing else is powered.",
        "bond",
    ),
    # ------------------------------------------------------------ live
    _said(
        "plug-while-clipped",
        "Plug out while anything is clipped.",
        "Plug out and in sight while anything is clipped.",
        "set-up",
        ids=("H01",),
    ),
    _said(
        "lamp-no-person",
        "The lamp protects iron, not people.",
        "The lamp protects iron, not people: behind it the HV is nearly full.",
        "first power",
        "first power high",
    ),
    _said(
        "device-blind",
        "No device guards an isolated winding.",
        "A residual-current device does not protect anyone touching an isolated winding.",
        "first power",
    ),
    _said(
        "one-terminal-here",
        "One terminal touched kills.",
        "{share} of its output stands to earth: one terminal touched kills as two do.",
        "first power high",
    ),
    _said(
        "hands-behind",
        "Hands behind you.",
        "No one lasts long enough at it to learn: hands behind you, one near the switch.",
        "no load high",
    ),
    _said(
        "from-nought",
        "Start at nought.",
        "Start at nought: switched in at full volts, iron may draw ten times and more.",
        "no load",
        "no load high",
        ids=("H92",),
    ),
    _said(
        "clips-first",
        "Clips on before power.",
        "Clips on before power, off after: nothing is held on a live pair.",
        "live volts",
    ),
    _said(
        "rings-off",
        "Rings and watch off.",
        "Rings and watch off: a short of few volts melts metal in the hand.",
        "shorted",
    ),
    _said(
        "down-first",
        "Down to nought before it is opened.",
        "Down to nought before it is opened: what is cut off under amps kicks.",
        "shorted",
        "shorted high",
    ),
    _said(
        "short-that-is-none",
        "A short that is none leaves kilovolts.",
        "A short that is none leaves kilovolts: bolted, at the core, covered.",
        "shorted high",
    ),
)
"""What is said at acts, in the order of the work."""
RULES = (
    *ROWS,
    Rule(
        code="mains-on",
        ids=("H01",),
        near=HAND,
        severity=CAUTION,
        condition="anything is connected or read cold",
        headline="Plug out, in sight, in your own hand.",
        reason="A switch may open one pole, or another hand may close it.",
        instead="Plug out and beside the meter before every touch.",
        when=lambda scene: bool(scene.act) and not scene.act.startswith(LIVE_ACTS),
    ),
)
"""The same, and what is said at every act without power."""
ACTS = tuple(dict.fromkeys(act for rule in ROWS for act in rule.acts))
"""Every act at which something is said, in the order of the work."""


def said_at(act: str, share: str = EITHER) -> tuple[str, ...]:
    """What is said at an act, in the order of the table; `share` is what of the HV stands to
    earth.
    """
    return tuple(rule.reason.format(share=share) for rule in ROWS if act in rule.acts)
