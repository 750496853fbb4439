"""Histories that go wrong: sound, documented pieces whose record is bent in one way, so that power
would kill or burn, and the same pieces bent harmlessly.

Each mutation takes a sound record with its truth and writes another record; none reads what is
concluded. What a gate must say of it stands in `deadly`: a deadly history must find it shut, a
harmless one open. The ways of bending are common practice: what owners do to a record.
"""

from collections.abc import Callable, Iterator, Sequence
from copy import deepcopy
from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np
from msgspec import Struct

from greyfell.core.simulated.designs import BONDED
from greyfell.core.simulated.meters import TESTED
from greyfell.core.simulated.owner import OwnerTold, documented
from greyfell.core.truth.piece import Wound

Document = dict[str, Any]
Reading = dict[str, Any]
Rng = np.random.Generator

START = datetime(2026, 9, 1, 10, 0, tzinfo=UTC)
"""When the first reading of every history was taken."""
NOW = datetime(2026, 9, 20, 9, 0, tzinfo=UTC)
"""When every history is looked at."""
ANY = (*BONDED, "lv", "valve", "isolating", "step", "dual")
SEPARATE = ("lv", "valve", "isolating", "step")
"""Pieces with a low-voltage winding that is open to the core."""


class SoundBase(Struct):
    """A sound record in its order of time, with the truth behind it; changed in place."""

    document: Document
    told: OwnerTold
    rng: Rng
    count: int = 0

    @property
    def readings(self) -> list[Reading]:
        """The readings of the record, to be bent."""
        found: list[Reading] = self.document["readings"]
        return found

    @property
    def primary(self) -> tuple[str, str]:
        """The ends of the winding that takes the mains."""
        return ends_of(self.told.piece.winding("primary"))

    @property
    def mains_leads(self) -> set[str]:
        """Every lead of the winding that takes the mains, its taps too."""
        return {x for x, _ in self.told.piece.winding("primary").leads}

    @property
    def other(self) -> tuple[str, str]:
        """The ends of another winding, open to the core where there is one."""
        rest = [w for w in self.told.piece.windings if w.name != "primary"]
        apart = [w for w in rest if not bonded(w)] or rest
        return ends_of(apart[int(self.rng.integers(len(apart)))])

    def pick(self, *choices: Any) -> Any:
        """One of some choices."""
        return choices[int(self.rng.integers(len(choices)))]

    def later(self, **more: Any) -> str:
        """A time after every reading so far: some minutes, or what is asked for."""
        self.count += 1
        step = timedelta(**more) if more else timedelta(minutes=5 * self.count)
        return (START + timedelta(days=1) + step).isoformat()

    def read(self, kind: str, **fields: Any) -> Reading:
        """Append one reading; at a later time unless `at` is given."""
        reading = {"id": f"h{len(self.readings) + 1}", "kind": kind, "at": self.later(), **fields}
        self.readings.append({k: v for k, v in reading.items() if v is not None})
        return self.readings[-1]

    def of(self, kind: str, *points: str) -> list[Reading]:
        """Readings of a kind between points."""
        return [r for r in self.readings if r["kind"] == kind and set(points) <= points_of(r)]

    def drop(self, gone: Sequence[Reading]) -> None:
        """Take readings out."""
        ids = {id(r) for r in gone}
        self.document["readings"] = [r for r in self.readings if id(r) not in ids]


class History(Struct, frozen=True):
    """A record that was bent: by which mutation, how, and whether power would kill or burn."""

    kind: str
    how: str
    document: Document
    deadly: bool


Bend = Callable[[SoundBase], str]


class Mutation(Struct, frozen=True, kw_only=True):
    """One way of bending: its name, whether it is deadly, the pieces it may be done to, and ways
    to do it, each of which bends the base and says how.
    """

    kind: str
    deadly: bool
    ways: tuple[Bend, ...]
    makers: tuple[str, ...] = ANY


def ends_of(w: Wound) -> tuple[str, str]:
    """A winding's two ends."""
    return w.leads[0][0], w.leads[-1][0]


def bonded(w: Wound) -> bool:
    """Whether a winding is bonded to the core."""
    return any(lead == "core" for lead, _ in w.leads)


def points_of(reading: Reading) -> set[str]:
    """The points that a reading of one pair names."""
    return set(reading.get("between") or reading.get("across") or ())


def base_of(rng: Rng, maker: str) -> SoundBase:
    """A sound, documented piece with times: a minute between readings."""
    told = documented(rng, maker)
    document = deepcopy(told.document)
    for n, reading in enumerate(document["readings"]):
        reading["at"] = (START + timedelta(minutes=n)).isoformat()
    for said in document["statements"]:
        said["at"] = (START - timedelta(minutes=30)).isoformat()
    return SoundBase(document, told, rng)


def history(mutation: Mutation, rng: Rng) -> tuple[Document, History]:
    """One history of a mutation, and the sound record it was bent from."""
    base = base_of(rng, str(rng.choice(list(mutation.makers))))
    sound = deepcopy(base.document)
    way = mutation.ways[int(rng.integers(len(mutation.ways)))]
    how = way(base)
    return sound, History(mutation.kind, how, base.document, mutation.deadly)


def histories(rng: Rng, mutation: Mutation) -> Iterator[tuple[Document, History]]:
    """Histories of a mutation without end, each with its sound record."""
    while True:
        yield history(mutation, rng)


# ------------------------------------------------------------------ what is bent


def _touch(base: SoundBase) -> dict[str, Any]:
    """A reading of the primary to the core that stops a piece: ohms, or an insulation test."""
    pair = [base.pick(*base.primary), "core"]
    if base.rng.random() < 0.4:
        ohms = float(base.pick(2e4, 3e5, 9e5, 1.6e6))
        return {"kind": TESTED, "between": pair, "ohms": ohms, "test_volts": 500.0}
    ohms = float(base.pick(0.4, 3.0, 60.0, 900.0, 4e4))
    return {"kind": "resistance", "between": pair, "ohms": ohms}


def _fault(base: SoundBase, **more: Any) -> Reading:
    told = _touch(base)
    return base.read(told.pop("kind"), **{**told, **more})


def _answer(fault: Reading) -> dict[str, Any]:
    """The same test of the same pair, sound."""
    if fault["kind"] == TESTED:
        return {"between": fault["between"], "ohms": 6e8, "test_volts": fault["test_volts"]}
    return {"between": fault["between"], "ohms": "open", "range_ohms": 2e7}


SLIP = {"reason": "a slip of the pen", "by": "", "at": (START + timedelta(days=2)).isoformat()}


def _struck(base: SoundBase) -> str:
    _fault(base, struck=dict(SLIP))
    return "the newest reading, a touch, struck out and not read again"


def _struck_between(base: SoundBase) -> str:
    one, two = base.primary[0], base.other[0]
    base.read("resistance", between=[one, two], ohms=0.9, struck=dict(SLIP))
    return "primary to output 0.9 Ω, struck out and not read again"


def _struck_twice(base: SoundBase) -> str:
    fault = _fault(base, struck=dict(SLIP))
    base.read(fault["kind"], **{**_answer(fault), "ohms": fault["ohms"]}, struck=dict(SLIP))
    base.read(fault["kind"], **_answer(fault))
    return "a touch read twice, both struck out, read again once"


def _bond_broken(base: SoundBase) -> str:
    worse = base.pick(
        {"kind": "resistance", "between": ["earth", "core"], "ohms": "open", "range_ohms": 200.0},
        {"kind": "dc_drop", "across": ["earth", "core"], "volts": 4.0, "amps": 10.0},
    )
    kind = worse.pop("kind")
    broken = base.read(kind, **worse, at=base.later(days=2))
    good = base.of("dc_drop", "earth", "core")[0]
    base.drop([good, broken])
    base.readings.extend([broken, {**good, "at": base.later(days=1)}])
    return "the bond proved, then broken; entered the other way round"


def _answer_before(base: SoundBase) -> str:
    fault = _fault(base, struck=dict(SLIP))
    base.read(fault["kind"], **_answer(fault), at=START.isoformat())
    return "a touch struck out; what answers it was read before it and entered after it"


def _change_listed_first(base: SoundBase) -> str:
    change = {"id": "c1", "what": "rewound", "at": base.later(days=3)}
    base.document["changes"] = [change]
    base.document["readings"] = list(reversed(base.readings))
    return "rewound after everything was read; listed before it"


def _salvage_reversed(base: SoundBase) -> str:
    said = base.document["statements"][0]
    again = {**said, "id": "s2", "text": "still shows 900 V", "at": base.later(days=1)}
    base.document["statements"] = [again, said]
    return "discharged, then found charged again; entered the other way round"


def _polarity_both(base: SoundBase) -> str:
    read = next(r for r in base.readings if r["kind"] == "polarity")
    volts = abs(2 * read["driven_volts"] - read["across_volts"])
    fields = {k: v for k, v in read.items() if k not in ("id", "at", "kind")}
    base.read("polarity", **{**fields, "across_volts": round(max(volts, 0.2), 2)})
    return "polarity read twice, once adding and once bucking"


def _polarity_odd(base: SoundBase) -> str:
    read = next(r for r in base.readings if r["kind"] == "polarity")
    read["across_volts"] = round(read["driven_volts"] * float(base.pick(0.6, 1.1, 1.5)), 2)
    return "polarity read at volts that neither sense gives"


def _proof_belied(base: SoundBase) -> str:
    base.read("core_proof", ohms=float(base.pick(30.0, 450.0, 9000.0)))
    return "two scraped spots: a tenth of an ohm, and hundreds"


def _touch_beside_open(base: SoundBase) -> str:
    _fault(base)
    return "open to the core, and a touch, both on record"


def _open_along(base: SoundBase) -> str:
    base.read("resistance", between=list(base.primary), ohms="open", range_ohms=2e7)
    return "the primary conducts, and reads open later"


def _primary_fell(base: SoundBase) -> str:
    own = base.of("resistance", *base.primary)[0]
    probe = own.get("probe_ohms", 0.0)
    if own["ohms"] < 3.0:
        return _proof_belied(base)  # a hand meter cannot tell a third of so few ohms
    ohms = round((own["ohms"] - probe) * 0.35 + probe, 2)
    base.read("resistance", between=list(base.primary), ohms=ohms, probe_ohms=probe or None)
    return "the primary's ohms fell to a third between two readings"


DENIALS = (
    "did not discharge it, no resistor at hand",
    "not discharged",
    "still shows 1800 V",
    "measured 340 V after an hour",
    "cap still in, fed up, later",
    "not yet",
    "",
    "will do it tomorrow",
    "could not reach the terminals",
    "rated 2100 V",
    "I think so",
    "it should be empty by now",
    "left it, 0.9 µF 2100 V AC",
    "discharged? no idea",
    "neighbour said it is fine",
    "was never short-circuited",
)


def _denied(base: SoundBase) -> str:
    said = base.document["statements"][0]
    said["text"] = base.pick(*DENIALS)
    return f"salvage: “{said['text']}”"


def _about_another(base: SoundBase) -> str:
    said = base.document["statements"][0]
    said["concerns"] = base.pick("HV fuse", "fan", "insulation test", "magnetron", "lamp")
    return f"salvage said of the {said['concerns']}"


def _by_another_word(base: SoundBase) -> str:
    said = base.document["statements"][0]
    said["kind"] = "done-elsewhere"
    said["concerns"] = base.pick("insulation test", "isolation", "ohms")
    said["text"] = "the workshop tested everything"
    return f"no salvage; done elsewhere: {said['concerns']}"


def _nothing_said(base: SoundBase) -> str:
    base.document["statements"] = []
    return "nothing said of the capacitor"


def _none_here(base: SoundBase) -> str:
    said = base.document["statements"][0]
    said |= {"kind": "no-capacitor", "text": "nothing to discharge"}
    return "an oven's part, and “none here”"


REBUILDS = (
    "rewound",
    "core-split",
    "core-rejoined",
    "primary-turns-added",
    "winding-removed",
    "shunts-removed",
    "core knocked apart",
    "new secondary wound on",
    "dropped off the bench",
    "drilled for a bracket",
)


def _rebuilt(base: SoundBase) -> str:
    what = base.pick(*REBUILDS)
    base.document["changes"] = [{"id": "c1", "what": what, "at": base.later(days=3)}]
    return f"{what} after everything was read"


def _rebuilt_untimed(base: SoundBase) -> str:
    what = base.pick(*REBUILDS)
    base.document["changes"] = [{"id": "c1", "what": what}]
    return f"{what}, nobody knows when"


def _rebuilt_between(base: SoundBase) -> str:
    """Between the barriers' readings and a bond and proof that were read again."""
    base.document["changes"] = [{"id": "c1", "what": "rewound", "at": base.later(days=1)}]
    base.read("core_proof", ohms=0.1, at=base.later(days=2))
    for pair in (list(base.primary), list(base.other)):
        own = base.of("resistance", *pair)
        if own:
            fields = {k: v for k, v in own[0].items() if k not in ("id", "at", "kind")}
            base.read("resistance", **fields, at=base.later(days=2))
    return "rewound; only the copper read again, no barrier"


def _swapped_barrier(base: SoundBase) -> str:
    """The primary's readings to the core were noted at another lead, which thus has two."""
    mine = [r for r in base.readings if points_of(r) & base.mains_leads and "core" in points_of(r)]
    lead = base.other[0]
    for r in mine:
        r["between"] = [lead, "core"]
    return "what was read of the primary to the core is noted at another lead"


def _swapped_bond(base: SoundBase) -> str:
    good = base.of("dc_drop", "earth", "core")[0]
    good["across"] = ["earth", base.other[0]]
    return "the bond was read to a lead that is not the core"


def _swapped_side(base: SoundBase) -> str:
    """Primary to output: every pair of whatever lead of it noted within the primary instead."""
    first = base.mains_leads
    second = {x for w in base.told.piece.windings if w.name != "primary" for x, _ in w.leads}
    across = [r for r in base.readings if points_of(r) & first and points_of(r) & second - {"core"}]
    base.drop(across)
    base.read("resistance", between=[base.primary[0], "core"], ohms="open", range_ohms=2e7)
    return "primary to output was never read; its core pair twice"


def _future_salvage(base: SoundBase) -> str:
    base.document["statements"][0]["at"] = datetime(2031, 1, 1, tzinfo=UTC).isoformat()
    return "salvage said of 2031"


def _future_answer(base: SoundBase) -> str:
    fault = _fault(base, struck=dict(SLIP))
    base.read(fault["kind"], **_answer(fault), at="2031-01-01T10:00:00+00:00")
    return "a touch struck out, answered in 2031"


def _future_better(base: SoundBase) -> str:
    pair = [base.primary[0], "core"]
    base.read(TESTED, between=pair, ohms=9e5, test_volts=500.0)
    base.read(TESTED, between=pair, ohms=6e8, test_volts=500.0, at="2031-01-01T10:00:00+00:00")
    return "insulation failed; a sound one is of 2031"


def _future_bond(base: SoundBase) -> str:
    base.of("dc_drop", "earth", "core")[0]["at"] = "2031-01-01T10:00:00+00:00"
    base.read("resistance", between=["earth", "core"], ohms="open", range_ohms=200.0)
    return "the bond is open; its proof is of 2031"


def _overruled_other(base: SoundBase) -> str:
    """A leak of the primary, overruled in words about another winding."""
    pair = [base.primary[0], "core"]
    base.read(TESTED, between=pair, ohms=float(base.pick(2.4e6, 4e6)), test_volts=500.0)
    said = {"id": "s9", "kind": "overrule", "concerns": "insulation-low", "text": "it is damp"}
    base.document["statements"].append({**said, "at": base.later(days=3)})
    return "2 to 7 MΩ of the primary at 500 V, overruled as damp"


def _designed_other(base: SoundBase) -> str:
    lead = base.primary[0]
    base.read("resistance", between=[lead, "core"], ohms=0.2)
    said = {"id": "s9", "kind": "bonded-by-design", "concerns": base.pick(lead, base.other[0])}
    base.document["statements"].append({**said, "text": "as made", "at": base.later(days=3)})
    return "the primary on the core, “by design”"


def _tested_other(base: SoundBase) -> str:
    """The primary's barrier to the core gone; another winding's tested at 500 V instead."""
    mine = [r for r in base.readings if points_of(r) & base.mains_leads and "core" in points_of(r)]
    base.drop(mine)
    base.read(TESTED, between=[base.other[0], "core"], ohms=6e8, test_volts=500.0)
    return "another winding tested to the core, not the primary"


def _answered_other_end(base: SoundBase) -> str:
    one, two = base.primary
    base.read("resistance", between=[one, "core"], ohms=3.0, struck=dict(SLIP))
    base.read("resistance", between=[two, "core"], ohms="open", range_ohms=2e7)
    return "a touch struck out, the other end read instead"


def _leak_other_end(base: SoundBase) -> str:
    one, two = base.primary
    base.read(TESTED, between=[one, "core"], ohms=1.5e6, test_volts=500.0)
    base.read(TESTED, between=[two, "core"], ohms=5e8, test_volts=500.0)
    return "insulation failed at one end, read sound at the other"


def _answered_other_winding(base: SoundBase) -> str:
    one, out = base.primary[0], base.other
    base.read("resistance", between=[one, out[0]], ohms=12.0, struck=dict(SLIP))
    base.read("resistance", between=[out[0], "core"], ohms="open", range_ohms=2e7)
    return "primary to output struck out, output to core read instead"


def _fewer_volts(base: SoundBase) -> str:
    pair = [base.primary[0], "core"]
    base.read(TESTED, between=pair, ohms=8e5, test_volts=1000.0)
    volts = float(base.pick(50.0, 250.0, 500.0))
    base.read(TESTED, between=pair, ohms="open", test_volts=volts)
    return f"failed at 1000 V, open at {volts:g} V"


def _by_ohmmeter(base: SoundBase) -> str:
    pair = [base.primary[0], "core"]
    base.read(TESTED, between=pair, ohms=9e5, test_volts=500.0, struck=dict(SLIP))
    base.read("resistance", between=pair, ohms="open", range_ohms=2e7)
    return "failed at 500 V, struck out, open by ohmmeter"


def _low_range(base: SoundBase) -> str:
    for r in base.readings:
        if r["kind"] == "resistance" and r["ohms"] == "open" and base.mains_leads & points_of(r):
            r["range_ohms"] = 2e3
    base.drop([r for r in base.readings if r["kind"] == TESTED])
    return "the primary read open on 2 kΩ only"


def _weak_struck(base: SoundBase) -> str:
    pair = [base.primary[0], "core"]
    base.read("resistance", between=pair, ohms=3.0, struck=dict(SLIP))
    base.read("resistance", between=pair, ohms="open", range_ohms=200.0)
    return "a touch struck out, open on 200 Ω"


def _weak_bond(base: SoundBase) -> str:
    base.read("dc_drop", across=["earth", "core"], volts=4.0, amps=10.0)
    if base.rng.random() < 0.5:
        base.read("resistance", between=["earth", "core"], ohms=0.1)
    else:
        base.read("dc_drop", across=["earth", "core"], volts=0.1, amps=2.0)
    return "the bond bad at 10 A, good by less"


def _few_volts_only(base: SoundBase) -> str:
    mine = [r for r in base.readings if points_of(r) & base.mains_leads and "core" in points_of(r)]
    base.drop(mine)
    base.read(TESTED, between=[base.primary[0], "core"], ohms="open", test_volts=50.0)
    return "the primary open to the core at 50 V and by nothing else"


def _loose_lead(base: SoundBase) -> str:
    """A lead of no winding that leaks to the primary, and to nothing else."""
    base.document["leads"].append({"id": "Q"})
    ohms = float(base.pick(2e4, 3.26e5, 9e5))
    for x in base.primary:
        base.read("resistance", between=[x, "Q"], ohms=ohms)
    return "the primary leaks to a lead of no winding"


def _claimed(base: SoundBase) -> str:
    for r in base.readings:
        if base.mains_leads & points_of(r) and r.get("ohms") == "open":
            r["claimed"] = True
        if r["kind"] == TESTED:
            r["claimed"] = True
    return "the primary's barriers are only told by the seller"


def _old(base: SoundBase) -> str:
    years = int(base.pick(2, 3, 28))
    for r in base.readings:
        r["at"] = (datetime.fromisoformat(r["at"]) - timedelta(days=366 * years)).isoformat()
    return f"everything read {years} years ago"


def _old_untimed(base: SoundBase) -> str:
    fault = _fault(base, struck=dict(SLIP))
    base.read(fault["kind"], **_answer(fault), at=None)
    return "a touch struck out; what answers it has no time"


def _same_minute(base: SoundBase) -> str:
    good = base.of("dc_drop", "earth", "core")[0]
    base.read("dc_drop", across=["earth", "core"], volts=3.0, amps=good["amps"], at=good["at"])
    base.document["readings"] = list(reversed(base.readings))
    return "the bond good and bad in the same minute"


def _untimed_bond(base: SoundBase) -> str:
    base.read("dc_drop", across=["earth", "core"], volts=3.0, amps=10.0, at=None)
    return "the bond bad, at a time that nobody noted"


def _foreign_plate(base: SoundBase) -> str:
    plate, supply = base.document["nameplate"], base.document["supply"]
    plate["primary_volts"] = round(supply["volts"] / float(base.pick(1.15, 1.9, 2.1)), 0)
    return "a plate of fewer volts than the supply's"


def _slower_supply(base: SoundBase) -> str:
    base.document["supply"]["volts"] *= 1.2
    return "a supply of a fifth more volts than the plate's"


def _no_supply(base: SoundBase) -> str:
    base.document["supply"] = {}
    return "the supply is not stated"


def _bleeder(base: SoundBase) -> str:
    lead = base.pick(*[x for w in base.told.piece.windings for x, _ in w.leads if x != "core"])
    ohms = float(base.pick(8.2e6, 9.8e6, 11e6))
    base.read("resistance", between=[lead, "core"], ohms=ohms)
    return "the capacitor's bleeder reads to the core"


# ------------------------------------------------------------------ what is bent harmlessly


def _shuffled(base: SoundBase) -> str:
    order = base.rng.permutation(len(base.readings))
    base.document["readings"] = [base.readings[int(i)] for i in order]
    return "entered in another order"


def _read_again(base: SoundBase) -> str:
    fault = _fault(base, struck={**SLIP, "at": base.later(hours=2)})
    base.read(fault["kind"], **_answer(fault), at=base.later(hours=4))
    return "a slip struck out, and read again by the same test"


def _bond_mended(base: SoundBase) -> str:
    base.of("dc_drop", "earth", "core")[0]["at"] = base.later(days=3)
    base.read("resistance", between=["earth", "core"], ohms="open", range_ohms=200.0)
    return "the bond open, mended, proved; entered the other way round"


def _dried(base: SoundBase) -> str:
    pair = [base.primary[0], "core"]
    base.read(TESTED, between=pair, ohms=float(base.pick(1.4e6, 4e6)), test_volts=500.0)
    volts = float(base.pick(500.0, 1000.0))
    base.read(TESTED, between=pair, ohms=6.2e8, test_volts=volts, at=base.later(days=4))
    return "damp, dried, the same pair sound by the same test"


def _hand_dried(base: SoundBase) -> str:
    pair = [base.primary[0], "core"]
    base.read("resistance", between=pair, ohms=float(base.pick(3e6, 1.2e7)), range_ohms=2e7)
    base.read("resistance", between=pair, ohms="open", range_ohms=2e7, at=base.later(days=4))
    base.read(TESTED, between=pair, ohms=6.2e8, test_volts=500.0, at=base.later(days=4))
    return "fingers on the probes, then open on the same range and at 500 V"


def _said_more(base: SoundBase) -> str:
    text = base.pick(
        "never burn wood with this",
        "not from a fence energiser",
        "the plug stays in sight",
        "no fence, no fish, no fun",
    )
    said = {"id": "s8", "kind": "note", "text": text, "at": base.later()}
    base.document["statements"].append(said)
    return f"a note: “{text}”"


def _other_words(base: SoundBase) -> str:
    base.document["title"] = base.pick(
        "Bench supply for the ignition coil tester",
        "From a voltage transformer cabinet, control supply",
        "Stood beside the flyback bench",
    )
    return f"titled “{base.document['title']}”"


def _salvage_words(base: SoundBase) -> str:
    said = base.document["statements"][0]
    said["text"] = base.pick(
        "not charged any more: 0.0 V twice, short on",
        "0.2 V twice, short left on",
        "rated 2100 V, now 3 V",
        "read 12 V, then 0.4 V, clip on",
        "did not trust it: stick, then 0.1 V",
    )
    return f"salvage: “{said['text']}”"


def _warm(base: SoundBase) -> str:
    own = base.of("resistance", *base.primary)[0]
    probe = own.get("probe_ohms", 0.0)
    hot = (own["ohms"] - probe) * (234.5 + 60) / (234.5 + 20) + probe
    fields = {"between": list(base.primary), "ohms": round(hot, 2), "celsius": 60.0}
    base.read("resistance", **fields, probe_ohms=probe or None)
    return "the primary read again at 60 °C"


MUTATIONS: Sequence[Mutation] = (
    Mutation(kind="strike", deadly=True, ways=(_struck, _struck_between, _struck_twice)),
    Mutation(
        kind="reorder",
        deadly=True,
        ways=(_answer_before, _change_listed_first, _salvage_reversed),
    ),
    Mutation(kind="reorder a bond", deadly=True, ways=(_bond_broken,), makers=(*BONDED, "oven")),
    Mutation(
        kind="contradict",
        deadly=True,
        ways=(_proof_belied, _touch_beside_open, _open_along, _primary_fell),
    ),
    Mutation(
        kind="contradict polarity",
        deadly=True,
        ways=(_polarity_both, _polarity_odd),
        makers=("dual",),
    ),
    Mutation(kind="deny", deadly=True, ways=(_denied, _about_another, _nothing_said)),
    Mutation(
        kind="deny by another word",
        deadly=True,
        ways=(_by_another_word, _none_here),
        makers=("oven",),
    ),
    Mutation(kind="rebuild", deadly=True, ways=(_rebuilt, _rebuilt_untimed, _rebuilt_between)),
    Mutation(kind="swap", deadly=True, ways=(_swapped_barrier, _swapped_side), makers=SEPARATE),
    Mutation(kind="swap a bond", deadly=True, ways=(_swapped_bond,), makers=("oven",)),
    Mutation(kind="future", deadly=True, ways=(_future_salvage, _future_answer, _future_better)),
    Mutation(kind="future bond", deadly=True, ways=(_future_bond,), makers=BONDED),
    Mutation(
        kind="other winding",
        deadly=True,
        ways=(_overruled_other, _designed_other, _tested_other),
        makers=SEPARATE,
    ),
    Mutation(
        kind="other pair",
        deadly=True,
        ways=(_answered_other_end, _leak_other_end, _answered_other_winding),
        makers=SEPARATE,
    ),
    Mutation(
        kind="weaker test",
        deadly=True,
        ways=(_fewer_volts, _by_ohmmeter, _low_range, _weak_struck, _few_volts_only),
    ),
    Mutation(kind="weaker bond", deadly=True, ways=(_weak_bond,), makers=BONDED),
    Mutation(kind="loose lead", deadly=True, ways=(_loose_lead,)),
    Mutation(kind="claimed", deadly=True, ways=(_claimed,)),
    Mutation(kind="old", deadly=True, ways=(_old,)),
    Mutation(kind="no time", deadly=True, ways=(_old_untimed,)),
    Mutation(
        kind="no time of a bond",
        deadly=True,
        ways=(_same_minute, _untimed_bond),
        makers=BONDED,
    ),
    Mutation(
        kind="plate and supply",
        deadly=True,
        ways=(_foreign_plate, _slower_supply, _no_supply),
    ),
    Mutation(kind="capacitor left on", deadly=True, ways=(_bleeder,), makers=("oven",)),
    Mutation(kind="order alone", deadly=False, ways=(_shuffled,)),
    Mutation(kind="read again", deadly=False, ways=(_read_again, _warm)),
    Mutation(kind="bond mended", deadly=False, ways=(_bond_mended,), makers=BONDED),
    Mutation(kind="dried", deadly=False, ways=(_dried, _hand_dried)),
    Mutation(kind="words", deadly=False, ways=(_said_more, _other_words, _salvage_words)),
)
"""Every way of bending: the deadly ones, then the harmless."""
