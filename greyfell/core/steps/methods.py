"""How each measuring act is done: the setting of the meter in hand, what it is proved on first,
what it needs of the stores, and what to borrow where there is none. An instrument that cannot
reach the reading is never proposed for it. Common practice.
"""

from collections.abc import Callable, Iterable, Sequence

from msgspec import Struct

from greyfell.core.dangers.of_act import TESTER_ACTS
from greyfell.core.evidence.record import Transformer
from greyfell.core.evidence.stores import Item
from greyfell.core.judgement.screening import ASKED_RANGE_OHMS
from greyfell.core.steps.step import Step

NONE = "have-none"
"""The statement that there is no instrument for an act; `concerns` names the act."""
HAVE = "have-one"
"""The statement that there is one after all."""
LEAST_AMPS = 1.0
"""A small direct current that tells milliohms from a meter's noise."""
RATIO_VOLTS = (2.0, 60.0)
"""Volts of an isolated source that drives a ratio."""
IRON_HERTZ = 130.0
"""Above this an inductance meter's answer is spoilt by laminations and self-resonance."""


def _any(_item: Item) -> bool:
    return True


def _reads_megohms(item: Item) -> bool:
    """A meter whose highest range counts for an open; one of which it is not known may."""
    most = item.figures.get("most_ohms")
    return most is None or most >= ASKED_RANGE_OHMS


def _gives_direct(item: Item) -> bool:
    return bool((item.figures.get("amps") or 0.0) >= LEAST_AMPS)


def _gives_alternating(item: Item) -> bool:
    """An isolated source of a few volts AC."""
    volts = item.figures.get("volts") or 0.0
    return item.figures.get("current") == "AC" and RATIO_VOLTS[0] <= volts <= RATIO_VOLTS[1]


def _at_mains_hertz(item: Item) -> bool:
    return bool((item.figures.get("hertz") or 0.0) <= IRON_HERTZ)


class MethodNeed(Struct, frozen=True, kw_only=True):
    """One thing an act needs: its words, the stores' kinds that may be it, whether an entry reaches
    the reading.
    """

    words: str
    kinds: tuple[str, ...]
    reaches: Callable[[Item], bool] = _any


METER = MethodNeed(words="an ohmmeter", kinds=("meter",))
VOLTMETER = MethodNeed(words="a voltmeter", kinds=("meter",))
MEGOHMS = MethodNeed(words="a meter with a 20 MΩ range", kinds=("meter",), reaches=_reads_megohms)
DIRECT = MethodNeed(
    words="a bench supply of 1 A or more, or a battery behind a resistor",
    kinds=("bench-supply",),
    reaches=_gives_direct,
)
ALTERNATING = MethodNeed(
    words="an isolated AC source of 2 to 60 V, such as a bell transformer",
    kinds=("source",),
    reaches=_gives_alternating,
)
INDUCTOMETER = MethodNeed(
    words="an inductance meter that measures at 100 or 120 Hz",
    kinds=("inductance-meter",),
    reaches=_at_mains_hertz,
)
TESTER = MethodNeed(words="an insulation tester", kinds=("insulation-tester",))
WIRE = MethodNeed(words="some metres of thin insulated wire", kinds=("wire",))
LAMP = MethodNeed(words="a filament lamp in a holder", kinds=("lamp",))
WATTMETER = MethodNeed(words="a wattmeter", kinds=("wattmeter",))
VARIAC = MethodNeed(words="a variac, or three lamps of different watts", kinds=("variac", "lamp"))
BOLT = MethodNeed(words="lugs or a bar to bolt the short with", kinds=("lug",))
DEVICE = MethodNeed(words="a residual-current device", kinds=("residual-current-device",))


class Method(Struct, frozen=True, kw_only=True):
    """How some acts are done: the meter's mode, range, jacks and zero; what it is proved on; what
    is needed.
    """

    acts: tuple[str, ...]
    setting: str
    prove: str
    needs: tuple[MethodNeed, ...]


METHODS = (
    Method(
        acts=("core proof", "ohms", "order", "place", "repeat", "clear"),
        setting="Ω, lowest range that does not overflow; jacks V/Ω and COM; probes shorted first.",
        prove="Probes together: their own ohms, steady. Apart: OL.",
        needs=(METER,),
    ),
    Method(
        acts=("open to core",),
        setting="Ω, 20 MΩ or above, set by hand; jacks V/Ω and COM; say the range in the jotter.",
        prove="Probes together: their own ohms, steady. Apart: OL.",
        needs=(MEGOHMS,),
    ),
    Method(
        acts=TESTER_ACTS,
        setting="The test volts asked for, or more; hold until it stands still.",
        prove="Its leads together: nought. Apart: its highest range.",
        needs=(TESTER,),
    ),
    Method(
        acts=("milliohms", "bond"),
        setting=(
            "mV DC at the very ends; amps set on the supply, 1 A: then the volts are the ohms."
        ),
        prove="A battery will do for DC volts.",
        needs=(DIRECT, VOLTMETER),
    ),
    Method(
        acts=("reverse ratio", "ratio", "cautious ratio", "polarity"),
        setting="V AC, a range above what is expected; jacks V/Ω and COM, never the A jack.",
        prove="The source itself, before and after: a nought is believed only then.",
        needs=(ALTERNATING, VOLTMETER),
    ),
    Method(
        acts=("test turns",),
        setting="V AC, its lowest range; jacks V/Ω and COM.",
        prove="The source itself, before and after: a nought is believed only then.",
        needs=(ALTERNATING, VOLTMETER, WIRE),
    ),
    Method(
        acts=("inductance",),
        setting="L at 100 or 120 Hz, series; note Q; its leads shorted and zeroed first.",
        prove="A choke you know, or two readings of the same winding.",
        needs=(INDUCTOMETER,),
    ),
    Method(
        acts=("first power", "first power high", "live volts"),
        setting="V AC, a range above what is expected; meter and leads for the mains.",
        prove="The socket itself, before and after.",
        needs=(LAMP, DEVICE, VOLTMETER),
    ),
    Method(
        acts=("no load", "no load high"),
        setting="V AC at the winding itself, amps in the line through the clamp or the A jack.",
        prove="A lamp of known watts: its amps are its watts over its volts.",
        needs=(VARIAC, VOLTMETER, WATTMETER, DEVICE),
    ),
    Method(
        acts=("shorted", "shorted high"),
        setting="V AC at the primary, amps and watts of the primary; nothing on the short.",
        prove="The no-load amps, read again just before.",
        needs=(VARIAC, BOLT, VOLTMETER, WATTMETER, DEVICE),
    ),
)
BY_ACT = {act: method for method in METHODS for act in method.acts}
"""Every method by its act."""
KINDS = tuple({kind: None for m in METHODS for need in m.needs for kind in need.kinds})
"""Every kind of the stores that some act needs."""
INSTRUMENTS = ("meter", "bench-supply", "source", "inductance-meter", "insulation-tester")
"""Stores that hold one of these describe the bench: what is not there is not had."""


class Means(Struct, frozen=True):
    """What an act needs and what there is: pairs of words and the entry's title, or "" for what is
    missing; whether the stores describe the bench at all.
    """

    method: Method
    has: tuple[tuple[str, str], ...]
    described: bool

    @property
    def borrow(self) -> tuple[str, ...]:
        """What to borrow."""
        return tuple(words for words, title in self.has if not title) if self.described else ()


def means(step: Step, items: Sequence[Item]) -> Means | None:
    """What a step needs and which entries of the stores reach its reading; None for what needs no
    instrument.
    """
    method = BY_ACT.get(step.act)
    if method is None:
        return None
    here = [i for i in items if i.count and not i.gone]
    described = any(i.kind.key in INSTRUMENTS for i in here)
    return Means(method, tuple((n.words, _found(n, here)) for n in method.needs), described)


def _found(need: MethodNeed, items: Iterable[Item]) -> str:
    """The title of the first entry that will do."""
    fit = (i.title for i in items if i.kind.key in need.kinds and need.reaches(i))
    return next(fit, "")


def lacking(record: Transformer) -> set[str]:
    """Acts that somebody said there is no instrument for, and has not got one since."""
    last = {s.concerns: s.kind for s in record.statements if s.kind in (NONE, HAVE)}
    return {act for act, kind in last.items() if kind == NONE}


def with_what_there_is(steps: Sequence[Step], items: Sequence[Item]) -> list[Step]:
    """The steps in their order, those of low energy that the stores have nothing for last; a stop,
    salvage and cold tests keep their place.
    """
    late = [s for s in steps if s.station == "low" and _wanting(s, items)]
    return [s for s in steps if s not in late] + late


def _wanting(step: Step, items: Sequence[Item]) -> bool:
    known = means(step, items)
    return known is not None and bool(known.borrow)
