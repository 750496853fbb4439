"""Kinds of piece that are told by plate, look or a few ohms, and what feeding one backwards, or
feeding it at all, would give.

They stand beside the families: a kind is named where something on record names it, with what did;
none is ever said to be excluded. All of it is common practice unless a line says otherwise.
"""

import re
from collections.abc import Callable
from functools import lru_cache
from typing import Any

from msgspec import Struct

from greyfell.core.belief.found import Belief, Winding
from greyfell.core.evidence.record import Transformer
from greyfell.core.families.registry import has, hv_bond
from greyfell.core.figures.limits import HIGH_VOLTAGE
from greyfell.core.figures.notation import engineering

CRANK_OHMS, CRANK_MM = 1.0, 2.0
"""Both windings of a crank welder have less than this, and their wire is thicker than this, mm."""
POLE_OHMS, POLE_RATIO = 0.1, 400.0
"""The low side of a distribution transformer has less than this, its high side so many times as
much and more."""
POLE_KG = 40.0
"""And it weighs more."""
COIL_OHMS, COIL_HIGH = (0.2, 6.0), (2e3, 30e3)
"""An ignition coil's primary, and its secondary, which shares one end with it."""
METER_OHMS, METER_LOW = (400.0, 30e3), 2.0
"""A voltage transformer's high side, and the most of its low side: a ratio of ohms that no piece of
two like coppers for power has at so few volt-amperes."""
METER_RATIO = 2500.0
"""And so many times between them at least."""


class NamedKind(Struct, frozen=True, kw_only=True):
    """A kind: its name, words of plate, title or parts that name it, a look that does, what it is,
    and what feeding it backwards gives. `never` kinds are never fed from the mains; `plated` are
    words that name it only where the plate tells no volts.
    """

    name: str
    words: tuple[str, ...]
    look: Callable[[Transformer, Belief], str]
    what: str
    backwards: str
    never: bool = False
    plated: tuple[str, ...] = ()


class KnownKind(Struct, frozen=True):
    """A kind as it was met: which, and what on record named it."""

    kind: NamedKind
    why: str

    @property
    def sentence(self) -> str:
        """What it is, and by what."""
        return f"{self.kind.what} ({self.why})."

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        return {
            "name": self.kind.name,
            "sentence": self.sentence,
            "backwards": self.kind.backwards,
            "never_on_mains": self.kind.never,
        }


def kinds_of(record: Transformer, belief: Belief) -> list[KnownKind]:
    """Every kind that something on record names. Pure.

    >>> from greyfell.core.evidence.parse import parse_record
    >>> from greyfell.core.belief.believe import believe
    >>> told = parse_record({"format": "greyfell.transformer/1", "tag": "W-1", "leads": [],
    ...                      "title": "crank welder of the shed"})
    >>> [k.kind.name for k in kinds_of(told, believe(told))]
    ['crank welder']
    """
    out = []
    sure = borne_out(record, belief)
    for kind in KINDS:
        why = _said(record, kind, hearsay=not (sure and kind.never)) or kind.look(record, belief)
        if why:
            out.append(KnownKind(kind, why))
    return out


BORNE_OUT = 0.9
"""From this chance the readings bear out what plate and owner say of the family. House rule."""
MAINS_PLATE = (90.0, 700.0)
"""A plate of so many volts is one of a part for the mains. IEC 60038."""


def borne_out(record: Transformer, belief: Belief) -> bool:
    """Whether a plate for the mains, and the family where it was declared, are what the readings
    say: then a title's words and other parts of the set are about something else.
    """
    plate, likely = record.nameplate, belief.family
    if plate is None or not plate.primary_volts or not has(likely, "for_mains"):
        return False
    if record.declared_family not in (None, likely) or belief.families[likely] < BORNE_OUT:
        return False
    return MAINS_PLATE[0] <= plate.primary_volts <= MAINS_PLATE[1]


def _said(record: Transformer, kind: NamedKind, *, hearsay: bool) -> str:
    """Where a word that names the kind stands; empty where none does. Title and parts are hearsay
    beside a plate that the readings bear out; on a plate of volts a ratio of amps is its output's.
    """
    plate = record.nameplate
    text = plate.text if plate is not None else ""
    volts = plate is not None and bool(plate.primary_volts or VOLTS.search(text))
    first = _first(kind.words, text) if text else ""
    if not first and text and not volts:
        first = _first(kind.plated, text)
    if first:
        return f"the plate says “{first}”"
    places = [("title", record.title)]
    places += [("part", p.what) for p in record.parts]
    for place, text in places:
        first = _first((*kind.words, *kind.plated), text) if text else ""
        if first and (hearsay or (place == "title" and _is_named(text, first))):
            return f"the {place} says “{first}”"
    return ""


GOES_ON = re.compile(
    r"(?: (?:transformer|coil|pack|supply|unit))?\s*"
    r"(?:$|[,;:(–—\d-]|(?:of|from|for|with|in|out|by|no)\b)",
    re.I,
)
"""How a title goes on that names its piece, and does not only mention another."""


def _is_named(title: str, word: str) -> bool:
    """Whether a title is about what a word names: it begins with it, and no other thing follows."""
    bare = re.sub(r"^(?:an?|the|my|old|small|big)\s+", "", title.strip(), flags=re.I)
    begins = bare.casefold().startswith(word.casefold())
    return begins and GOES_ON.match(bare[len(word) :]) is not None


VOLTS = re.compile(r"\d\s*k?V\b")


@lru_cache(maxsize=512)
def _first(words: tuple[str, ...], text: str) -> str:
    """What the first of these words that a text says looks like there; empty where it says none."""
    found = (re.search(word, text, re.I) for word in words)
    return next((f.group(0) for f in found if f is not None), "")


def _read(belief: Belief) -> list[Winding]:
    """Windings of which ohms are known, the fewest first."""
    known = [w for w in belief.windings if not w.coil.broken and not w.coil.unread]
    return sorted(known, key=lambda w: w.coil.ohms.value)


def _looks_crank(record: Transformer, belief: Belief) -> str:
    """A core that slides, or two thick windings of few ohms."""
    if record.core is not None and record.core.slide_mm is not None:
        return "its core slides"
    windings = _read(belief)
    if len(windings) != 2 or windings[1].coil.ohms.value >= CRANK_OHMS:
        return ""
    wires = {lead.id: lead.wire_mm or 0.0 for lead in record.leads}
    thick = [max(wires.get(x, 0.0) for x in w.coil.members) for w in windings]
    return "two windings of thick wire" if min(thick) > CRANK_MM else ""


def _looks_distribution(record: Transformer, belief: Belief) -> str:
    """Insulators, a low side of hundredths of an ohm, and the weight of a person."""
    plate = record.nameplate
    if plate is not None and (plate.primary_volts or 0.0) >= HIGH_VOLTAGE:
        return f"the plate says {engineering(plate.primary_volts or 0.0, 'V')}"
    windings = _read(belief)
    mass = record.core.mass_kg if record.core is not None else None
    if len(windings) < 2 or mass is None or mass < POLE_KG:
        return ""
    low, high = windings[0].coil.ohms.value, windings[-1].coil.ohms.value
    if low < POLE_OHMS and high > POLE_RATIO * max(low, 1e-3):
        return f"{mass:g} kg, and ohms of a high side beside hundredths"
    return ""


def _looks_meter(record: Transformer, belief: Belief) -> str:
    windings = _read(belief)
    if len(windings) != 2 or sign_borne_out(record, windings[1]):
        return ""
    low, high = windings[0].coil.ohms.value, windings[1].coil.ohms.value
    most = METER_RATIO * max(low, 1e-3)
    if low < METER_LOW and METER_OHMS[0] < high < METER_OHMS[1] and high > most:
        bushings = any(lead.end == "bushing" for lead in record.leads)
        return f"{engineering(high, 'Ω')} behind insulators" if bushings else ""
    return ""


SIGN_AMPS = 0.2
"""A sign's plate has no more amps; an instrument's transformer tells volt-amperes. M-T4."""


def sign_borne_out(record: Transformer, high: Winding) -> bool:
    """Whether two things and more of what tells a sign's transformer are on record: the owner's
    word, kilovolts with milliamps on the plate, an earthed middle on the plate, its middle read on
    the iron.
    """
    plate = record.nameplate
    told = [hv_bond(record.declared_family or "") == "middle", high.coil.bond == "middle"]
    if plate is not None:
        few = plate.secondary_amps is not None and plate.secondary_amps <= SIGN_AMPS
        told += [
            bool(plate.midpoint_earthed),
            few and (plate.secondary_volts or 0.0) >= HIGH_VOLTAGE,
        ]
    return sum(told) >= 2


def _looks_spark(record: Transformer, belief: Belief) -> str:
    """Some ohms between two leads and kilohms from each of them to a third: primary and secondary
    share an end.
    """
    read = [r for r in record.standing if r.by_ohmmeter and not r.is_open]
    ohms = {frozenset(r.between): r.ohms for r in read}
    for pair, low in ohms.items():
        if not COIL_OHMS[0] < low < COIL_OHMS[1]:
            continue
        for third in {x for points in ohms for x in points} - pair - {"core"}:
            high = [ohms.get(frozenset((x, third)), 0.0) for x in pair]
            if all(COIL_HIGH[0] < h < COIL_HIGH[1] for h in high):
                least = engineering(min(high), "Ω")
                return f"{engineering(low, 'Ω')} and {least} on one end"
    return ""


def _by_words_only(_record: Transformer, _belief: Belief) -> str:
    return ""


KINDS = (
    NamedKind(
        name="crank welder",
        words=(
            r"crank",
            r"(?:sliding|moving) (?:core|iron|shunt)",
            r"\b(?:stick|arc|buzz[- ]box) weld\w*",
        ),
        look=_looks_crank,
        what="It looks like a welder that is set by moving iron",
        backwards=(
            "Its weld side on the mains draws hundreds of amps and puts several times the mains on "
            "the other winding. Fed rightly it gives 50 to 80 V open: more than may be touched. "
            "Lock the slide, it pulls hard; an idle winding steps up."
        ),
    ),
    NamedKind(
        name="distribution transformer",
        words=(r"\bdistribution transformer", r"\bpole[- ]?(?:top|mount)", r"\bpad[- ]?mount"),
        look=_looks_distribution,
        what="It looks like a distribution transformer: kilovolts in, the mains out",
        backwards=(
            "Its low side on the mains puts the kilovolts of the street on the other, at the amps "
            "of a whole house: no limiter of a bench holds that. Old oil may hold PCB."
        ),
        never=True,
    ),
    NamedKind(
        name="voltage transformer",
        words=(
            r"\b(?:(?<!constant )voltage|potential|instrument) transformer",
            r"\b\d+(?:[.,]\d+)?\s*kV\s*/\s*1[01]0\b",
        ),
        look=_looks_meter,
        what="It looks like an instrument's voltage transformer",
        backwards=(
            "Fed from its low side it steps up a hundred times, with little in it to limit the "
            "amps; that side takes 100 to 120 V and never 230 V."
        ),
        never=True,
    ),
    NamedKind(
        name="current transformer",
        words=(r"\bcurrent transformer", r"\bstromwandler"),
        plated=(r"\b\d{2,4}\s*[/:]\s*[15]\s*A\b",),
        look=_by_words_only,
        what="It is a current transformer",
        backwards=(
            "Its winding is shorted before any current goes through the window: left open it puts "
            "out kilovolts. On the mains its winding saturates at once and burns."
        ),
        never=True,
    ),
    NamedKind(
        name="spark coil",
        words=(
            r"\b(?:ignition|spark|induction) coil",
            r"\bcoil pack",
            r"\bfly-?back",
            r"\bline output transformer",
        ),
        look=_looks_spark,
        what="It looks like a spark coil: it works by current cut off, not by the mains",
        backwards=(
            "Primary and secondary share an end: nothing isolates. Every break of its current puts "
            "out 10 to 40 kV; driven from the high side its few turns read next to nothing."
        ),
        never=True,
    ),
    NamedKind(
        name="electronic lamp supply",
        words=(
            r"\belectronic (?:transformer|ballast|neon|lamp)",
            r"\bLED driver",
            r"\b\d+(?:\s*(?:-|–|to)\s*\d+)?\s*kHz",
        ),
        look=_by_words_only,
        what="It is an electronic supply: a switching circuit with a ferrite transformer",
        backwards=(
            "Its small transformer works at tens of kilohertz: on the mains it is a short. Whole, "
            "its input capacitor may hold 325 V and more."
        ),
        never=True,
    ),
)
"""Every kind, with what names it."""
