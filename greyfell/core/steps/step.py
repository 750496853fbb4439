"""The words of every step, one declaration a step; `next_step` says when, and for which leads."""

from typing import Any, Literal

from msgspec import Struct

from greyfell.core.dangers.of_act import said_at
from greyfell.core.evidence.kinds.reading import AnyReading
from greyfell.core.evidence.kinds.registry import kind_of
from greyfell.core.judgement.high import EITHER
from greyfell.core.judgement.shorts import IRON_Q

"""Said wherever something stands under power."""
Points = tuple[str, ...]


class Step(Struct, frozen=True, kw_only=True):
    """One plain instruction: title, what to do, what to expect, what else would mean, the cautions
    that belong to it, what other windings carry meanwhile (id, volts from, to, and as a line), the
    energy it takes, the line of the jotter it begins, and its worth in nats.
    """

    kind: str
    leads: dict[str, Points]
    title: str
    do: str
    act: str = ""
    expect: str = ""
    otherwise: str = ""
    cautions: tuple[str, ...] = ()
    carries: tuple[tuple[str, float, float], ...] = ()
    meanwhile: str = ""
    energy: str = "none"
    jotter: str = ""
    worth: float = 0.0

    @property
    def caution(self) -> str:
        """Every caution of the step, and what stands live meanwhile, as one line."""
        return " ".join(x for x in (*self.cautions, self.meanwhile) if x)

    @property
    def station(self) -> str:
        """The station it is worked at; what has the line on it, at first power or at the sweep."""
        kind = self.reading
        if kind is None:
            return "power" if self.energy == "live" else STATION_OF.get(self.kind, "low")
        return kind.live_station if self.energy == "live" else kind.station

    @property
    def reading(self) -> type[AnyReading] | None:
        """The kind of reading it asks for; None where it asks for none."""
        return kind_of(self.kind)

    @property
    def may_lack(self) -> bool:
        """Whether somebody may have no instrument for it: a meter alone does not do, and no stop
        stands on it.
        """
        return self.station == "low" or self.act == AGED.act

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        return {
            "kind": self.kind,
            "leads": {k: list(v) for k, v in self.leads.items()},
            "why": f"{self.title}. {self.do}",
            "expect": self.expect,
            "otherwise": self.otherwise,
            "caution": self.caution,
            "cautions": list(self.cautions),
            "energy": self.energy,
            "worth_nats": round(self.worth, 3),
        }


STATION_OF = {
    "statement": "salvage",
    "setup": "power",
    "none": "record",
}
"""Where steps are worked that ask for no reading."""
Hands = Literal["", "between", "across", "driven"]


class Words(Struct, frozen=True, kw_only=True):
    """How a step is told; words in braces are filled in. `act` is what is done, by which its
    cautions are found; `hands` names the pair it concerns; a step that drives one pair and reads
    another names the second `sensed`.
    """

    kind: str
    act: str = ""
    title: str
    do: str
    expect: str = ""
    otherwise: str = ""
    energy: Literal["none", "stored", "cold", "low", "live"] = "none"
    jotter: str = ""
    hands: Hands = ""

    def of(self, pair: Points = (), sensed: Points = (), **words: str) -> Step:
        """The step for these leads."""
        leads: dict[str, Points] = {self.hands: pair} if self.hands else {}
        if sensed:
            leads["sensed"] = sensed
        return Step(
            kind=self.kind,
            leads=leads,
            title=self.title.format(**words),
            do=self.do.format(**words),
            act=self.act,
            expect=self.expect.format(**words),
            otherwise=self.otherwise.format(**words),
            cautions=said_at(self.act, words.get("share", EITHER)),
            energy=self.energy,
            jotter=self.jotter.format(**words),
        )


CONDEMNED = "The same again: the piece is condemned."
PROVE_METER = "Nothing: prove the meter on a known source first."
SAME_MINUTE = "Note both in the same minute."

CLEAR_OHMS = Words(
    kind="resistance",
    act="clear",
    hands="between",
    title="Stop: repeat {ends} before condemning",
    do="The same pair once more: {how}.",
    expect=CONDEMNED,
    otherwise="A different reading: strike the wrong one out with its reason.",
    energy="cold",
    jotter="{typed} ",
)
CLEAR_INSULATION = Words(
    kind="insulation",
    act="clear insulation",
    hands="between",
    title="Stop: repeat {ends} at {volts} before condemning",
    do=(
        "The same pair once more by insulation test at {volts} or above, nothing less clears it: "
        "{how}."
    ),
    expect=CONDEMNED,
    otherwise="A different reading: strike the wrong one out with its reason.",
    energy="cold",
    jotter="{typed} ins ",
)
CLEAR_SHORT = Words(
    kind="inductance",
    act="clear",
    hands="across",
    title="Stop: repeat the inductance of {a}–{b} before condemning",
    do=(
        "Everything off every lead, nothing through the window. Inductance and Q of {a}–{b} at 100 "
        "or 120 Hz."
    ),
    expect=CONDEMNED,
    otherwise=f"A Q of {IRON_Q[0]:.0f} or more: strike the wrong one out with its reason.",
    energy="cold",
    jotter="{a}-{b} L 100Hz ",
)
REPEAT = Words(
    kind="resistance",
    act="repeat",
    hands="between",
    title="Repeat {ends}",
    do=(
        "Reading {reading} does not add up with the others. Zero the probes, read {ends} again on "
        "a fixed range."
    ),
    expect="What the others say.",
    otherwise=("The same again: look at the others of this winding. A slip: strike {reading} out."),
    energy="cold",
    jotter="{typed} ",
)
SALVAGE = Words(
    kind="statement",
    act="capacitor",
    title="First the capacitor",
    do=(
        "If this came out of an oven, or has a filter: discharge its capacitor through a resistor, "
        "across the terminals and from each to the can, then short it and leave the short on. Say "
        "so here when it is done."
    ),
    expect="Under 1 V after a wait, measured with a meter proved on a known source.",
    otherwise="Volts coming back: the dielectric recovers; discharge again.",
    energy="stored",
)
NONE_HERE = Words(
    kind="statement",
    act="none here",
    title="Say what it came out of",
    do=(
        "Bare mains, sign and variable transformers have no capacitor to discharge. Look: if none "
        "is near it, say so at the salvage station; if there is one, discharge it first."
    ),
    expect="None here, or under 1 V after a wait.",
    energy="none",
)
BOND = Words(
    kind="dc_drop",
    act="bond",
    hands="across",
    title="Prove the bond of the core to earth",
    do=(
        "Earth wire under a lug on bare iron. Pass 1 A or more from earth to the core, 10 A before "
        "use, and read the volts at the bond itself; ohms are volts over amps."
    ),
    expect="At most 0.1 Ω.",
    otherwise="More: paint, a loose lug, a broken wire. The core returns high voltage: mend it.",
    energy="low",
    jotter="earth-core dc 10A ",
)
POLARITY = Words(
    kind="polarity",
    act="polarity",
    hands="driven",
    title="Polarity of the halves {a}–{b} and {c}–{d}",
    do=(
        "Join {b} to {c}, feed {a}–{b} from an isolated 12 V AC source, read {a} to {d}. Joined "
        "the wrong way the halves are a short on the line."
    ),
    expect="About 24 V: {a} and {c} are alike.",
    otherwise="About nought: {a} and {d} are alike.",
    energy="low",
    jotter="{a}-{b} 12V {b}={c} > {a}-{d} ",
)
PROOF = Words(
    kind="core_proof",
    act="core proof",
    title="Prove the core",
    do="Scrape two bare spots of the iron and read one against the other.",
    expect="Under 0.5 Ω.",
    otherwise=("More, or OL: varnish. Scrape again; until then an “open to core” says nothing."),
    energy="cold",
    jotter="proof ",
)
OPEN = Words(
    kind="resistance",
    act="open to core",
    hands="between",
    title="{lead} to {named}, highest range",
    do="One probe on {lead}, one on {touched}, range 20 MΩ or above. Note the range.",
    expect="OL ({open}).",
    otherwise="{meant} Megohms ({leaks}): leakage; dry it and read again.",
    energy="cold",
    jotter="{lead}-{mate} ",
)
AGED = Words(
    kind="insulation",
    act="insulation",
    hands="between",
    title="Insulation of {lead} to the core, 500 V",
    do=(
        "Damage or age is on record ({damage}): an ohmmeter's few volts show none of it. "
        "Insulation tester at 500 V from {lead} to the bare iron, until it stands still."
    ),
    expect="20 MΩ and more, steady.",
    otherwise="Less: damp, scorched or nicked. Dry it, read again; it does not get better in use.",
    energy="cold",
    jotter="{lead}-core ins 500V ",
)
PLACE = Words(
    kind="resistance",
    act="place",
    hands="between",
    title="Find what {lead} belongs to",
    do="Ohms from {lead} to every other lead and to the core, lowest range first.",
    expect="A few ohms to one or two leads, OL to the rest.",
    otherwise="OL to all: a screen, or a winding open inside.",
    energy="cold",
    jotter="{lead}-{mate} ",
)
OHMS = Words(
    kind="resistance",
    act="ohms",
    hands="between",
    title="Ohms of {a}–{b}",
    do="Read {a}–{b} on the lowest range first, the probes zeroed or their own ohms noted.",
    expect="Milliohms to some kilohms.",
    otherwise="OL on every range: open inside, or a diode, a fuse, a thermal link in the lead.",
    energy="cold",
    jotter="{a}-{b} ",
)
ORDER = Words(
    kind="resistance",
    act="order",
    hands="between",
    title="Which lead is in the middle: ohms of {a}–{b}",
    do="Read {a}–{b}. Pairs that share a lead do not tell on which side of it the others lie.",
    expect="The sum of what was read over the other leads, or the difference.",
    otherwise=(
        "Neither: a reading is off. Volts on a short end put many times as many on the whole of it."
    ),
    energy="cold",
    jotter="{a}-{b} ",
)
MILLIOHMS = Words(
    kind="dc_drop",
    act="milliohms",
    hands="across",
    title="Milliohms of {a}–{b}",
    do=(
        "Pass 1 to 2 A of DC through {a}–{b} and read the volts right at its ends; ohms are volts "
        "over amps."
    ),
    otherwise="Nothing at all: the current does not flow there.",
    energy="low",
    jotter="{a}-{b} dc 1A ",
)
REVERSE_RATIO = Words(
    kind="ratio",
    act="reverse ratio",
    hands="driven",
    title="Ratio from the HV side, {c}–{d}",
    do=(
        "Feed {c}–{d} from an isolated 24 to 60 V AC source (42 V taken here) and read {a}–{b}. "
        + SAME_MINUTE
    ),
    otherwise="More out than in: the wrong winding is driven. Off.",
    energy="low",
    jotter="{c}-{d} 42V > {a}-{b} ",
)
RATIO = Words(
    kind="ratio",
    act="ratio",
    hands="driven",
    title="Ratio with a few volts, {a}–{b} to {c}–{d}",
    do="Feed {a}–{b} from an isolated 12 V AC source and read {c}–{d}. " + SAME_MINUTE,
    otherwise=PROVE_METER,
    energy="low",
    jotter="{a}-{b} 12V > {c}-{d} ",
)
CAUTIOUS_RATIO = Words(
    kind="ratio",
    act="cautious ratio",
    hands="driven",
    title="Ratio with 3 V, {a}–{b} to {c}–{d}",
    do=(
        "Feed {a}–{b} from an isolated 3 V AC source and read {c}–{d}. HV is not ruled out: "
        "whatever may be an HV winding stays untouched and insulated, it carries tens of volts "
        "and more."
    ),
    otherwise=PROVE_METER,
    energy="low",
    jotter="{a}-{b} 3V > {c}-{d} ",
)
TEST_TURN = Words(
    kind="test_turn",
    act="test turns",
    hands="driven",
    title="Volts per turn with five turns",
    do=(
        "Wind five turns of thin wire through both windows, feed {a}–{b} with an isolated 6 V AC, "
        "read the five turns."
    ),
    otherwise="About half: the wire passes one window only.",
    energy="low",
    jotter="{a}-{b} 6V > 5 turns ",
)
INDUCTANCE = Words(
    kind="inductance",
    act="inductance",
    hands="across",
    title="Inductance of {a}–{b}",
    do=(
        "With an inductance meter at 100 or 120 Hz, all other leads open, nothing in parallel: "
        "read {a}–{b}."
    ),
    otherwise=(
        "A tenth or less: shorted turns, or a loop closed through the window. A fall alone proves "
        "no short."
    ),
    energy="low",
    jotter="{a}-{b} L 100Hz ",
)
SET_UP = Words(
    kind="setup",
    act="set-up",
    title="Set the bench up, from the wall to the piece",
    do="Plug out. {words}",
    expect="Nothing wrong on the drawing, from the wall to the piece.",
    otherwise="Something missing: mend it or write it down; nothing is switched on before.",
)
FIRST_POWER = Words(
    kind="lamp",
    act="first power",
    hands="across",
    title="First power of {a}–{b} behind a lamp",
    do=(
        "{watts} W of filament lamp in the line, {supply} on {a}–{b}, leads insulated, nothing "
        "touching, one hand, somebody near the switch. Expected before power: {named}."
    ),
    otherwise=(
        "Bright: shorted turns, a load left on, or the wrong winding. Off at once. A dark lamp "
        "clears nothing."
    ),
    energy="live",
    jotter="{a}-{b} lamp {watts}W ",
)
FIRST_POWER_HIGH = Words(
    kind="lamp",
    act="first power high",
    hands="across",
    title="First power of {a}–{b} behind a lamp, hands off the HV",
    do=(
        "{watts} W of filament lamp in the line, {supply} on {a}–{b} alone. HV leads insulated, "
        "apart, fixed; core on earth; nobody near; no probe on HV. Expected: {named}."
    ),
    otherwise=(
        "Bright: a short, or the lamp is small for this iron. Off, a larger one. Hiss, smell, a "
        "trip: off for good."
    ),
    energy="live",
    jotter="{a}-{b} lamp {watts}W ",
)
NO_LOAD = Words(
    kind="no_load",
    act="no load",
    hands="driven",
    title="Amps and watts of {a}–{b} at no load",
    do=(
        "Wind {a}–{b} up from nought in steps to {supply}, everything else open; without a variac "
        "three lamps of different watts, one after the other. Note volts at the winding, amps, "
        "watts."
    ),
    otherwise="Far more: off; shorted turns, or made for other mains. Nothing: prove the meter.",
    energy="live",
)
NO_LOAD_HIGH = Words(
    kind="no_load",
    act="no load high",
    hands="driven",
    title="Amps and watts of {a}–{b} at no load, from the primary's side",
    do=(
        "Wind {a}–{b} up from nought to {supply}: volts, amps and watts of the primary, clipped on "
        "before. HV leads insulated, apart, fixed; core on earth; nobody near; no probe on HV."
    ),
    otherwise="Far more, hiss, smell: off; shorted turns, a leak. Nothing: prove the meter.",
    energy="live",
)
LIVE_VOLTS = Words(
    kind="ratio",
    act="live volts",
    hands="driven",
    title="Volts of {c}–{d} with {a}–{b} on the line",
    do=(
        "Meter clipped on {c}–{d} before power, {supply} on {a}–{b} behind its limiter. Both volts "
        "in the same minute."
    ),
    otherwise="Half or double: half for whole, or another pair. Nothing: prove the meter first.",
    energy="live",
)
SHORTED = Words(
    kind="short_circuit",
    act="shorted",
    hands="driven",
    title="Short circuit of {c}–{d}, fed at {a}–{b}",
    do=(
        "{c}–{d} bolted together. Wind {a}–{b} up from nought, about {volts} to begin with, until "
        "{most} flow in the primary. Volts, amps and watts within ten seconds; down to nought."
    ),
    expect="A few volts to a fifth of the supply.",
    otherwise="Full volts and hardly any amps: the short is none. Nothing at all: prove the meter.",
    energy="live",
    jotter="{a}-{b} short {c}-{d} ",
)
SHORTED_HIGH = Words(
    kind="short_circuit",
    act="shorted high",
    hands="driven",
    title="Short circuit of the HV {c}–{d}, fed at {a}–{b}",
    do=(
        "Plug out: {c}–{d} bolted together and to the core, covered. Wind {a}–{b} up from nought, "
        "until {most} flow in the primary. Volts, amps and watts of the primary; down to nought."
    ),
    expect="A fifth to a third of the supply; shunts saturate above, and more flows.",
    otherwise="Hardly any amps: the short is none, and kilovolts stand there. Off, plug out.",
    energy="live",
    jotter="{a}-{b} short {c}-{d} ",
)
FINISHED = Words(
    kind="none",
    title="{title}",
    do="{words}",
)
