"""What on hand may limit a current: lamps, heaters, ballasts, capacitors, resistors, and what the
piece has itself, side by side; one recommended, and what a failure of each does.
"""

import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass

from greyfell.core.circuit.lamp import through
from greyfell.core.errors import FieldError
from greyfell.core.evidence.stores import Item
from greyfell.core.figures.limits import MAINS_RISE
from greyfell.core.figures.notation import engineering, times
from greyfell.core.figures.quantity import Quantity, corners, exact
from greyfell.core.planner_kit.asking import Input, OnHand, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, ShownRow, shown
from greyfell.core.planners import ballast_bank, starts
from greyfell.core.planners.ballast import MOST_OHMS, loaded_by
from greyfell.core.planners.series_capacitor import FORBIDDEN

SIDE_BY_SIDE = 4
"""Lamps or heaters of one kind are looked at up to so many side by side."""
BANKS = 3
"""Of the banks of ballasts the best so many are shown."""
MOST_SHOWN = 12
LAMP_LAW = 0.05
"""What a lamp's amps stray from their law by, ±. From memory."""


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """The supply, the amps that may flow with the load shorted, the load, the piece's own
    impedance, and the stores.
    """

    limit_amps: Quantity = asked(
        "Current, load shorted", "A", above=0, at_most=1e5, slide=(0.2, 25), chosen=True
    )
    supply_volts: Quantity = asked("Supply", "V", above=0, at_most=1e5, start=starts.supply_volts)
    supply_hertz: float = asked(
        "Frequency", "Hz", at_least=1, at_most=1000, start=starts.supply_hertz
    )
    source_resistance_ohms: Quantity = asked(
        "Piece's resistance", "Ω", at_least=0, at_most=MOST_OHMS, start=starts.source_resistance
    )
    source_reactance_ohms: Quantity = asked(
        "Piece's reactance", "Ω", at_least=0, at_most=MOST_OHMS, start=starts.source_reactance
    )
    load_ohms: float | None = asked("Load", "Ω", default=None, at_least=0, at_most=MOST_OHMS)
    magnetising_ohms: float | None = asked(
        "Magnetising reactance", "Ω", default=None, above=0, at_most=1e9
    )
    stores: OnHand = asked("Stores", default=OnHand())


@dataclass(frozen=True, kw_only=True)
class Choice(ShownRow):
    """One limiter and what it does."""

    title: str = shown("Limiter")
    kind: str = shown("Kind")
    parts: str = shown("Parts")
    shorted_amps: Quantity | None = shown("Shorted", "A")
    loaded_amps: Quantity | None = shown("Loaded", "A")
    load_volts: Quantity | None = shown("Load's volts", "V")
    heat_watts: Quantity | None = shown("Heat in it, shorted", "W")
    if_it_fails: str = shown("If it fails")
    refused: bool = shown("Refused")
    reason: str = shown("Why")


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """The choices, best first."""

    recommended: str = shown("Take", lead=True)
    because: str = shown("because")
    unlimited_amps: Quantity = shown("Shorted, with nothing ahead", "A")
    choices: tuple[Choice, ...] = shown("Everything on hand")


@dataclass(frozen=True)
class _Loop:
    """What the loop is without a limiter."""

    volts: float
    own: complex
    load: float | None
    limit: float
    omega: float

    @property
    def amps(self) -> float:
        """Amps with the piece shorted and nothing ahead, A. Ohm's law."""
        return self.volts / max(abs(self.own), 1e-9)


def _on_hand(loop: _Loop, given: Given) -> Iterator[Choice]:
    for item in given.stores.of("lamp", "heater"):
        yield from _hot(loop, item)
    for item in given.stores.of("resistor"):
        yield _resistor(loop, item)
    for item in given.stores.of("capacitor"):
        yield _capacitor(loop, item, given)
    yield from _banked(given)
    for item in given.stores.of("variac"):
        yield _variac(loop, item)


def work(given: Given) -> Found:
    """Each choice by phasors with the piece's own impedance, lamps by the filament's law, shorted
    and loaded. REF-B-01 to B-05. V, A, Ω, W; a lamp's rated volts are the supply's where the stores
    do not tell them.

    Raises FieldError where neither impedance of the piece is above nought.

    >>> told = Given(limit_amps=exact(3.0), supply_volts=exact(230.0), supply_hertz=50.0,
    ...              source_resistance_ohms=exact(2.0), source_reactance_ohms=exact(5.0))
    >>> work(told).recommended
    'nothing on hand'
    """
    own = complex(given.source_resistance_ohms.value, given.source_reactance_ohms.value)
    if not abs(own):
        raise FieldError("source_reactance_ohms", "A piece without any ohms of its own is none.")
    omega = 2 * math.pi * given.supply_hertz
    limit = given.limit_amps.value
    loop = _Loop(
        volts=given.supply_volts.value,
        own=own,
        load=given.load_ohms,
        limit=limit,
        omega=omega,
    )
    choices = [_itself(loop)]
    choices += _on_hand(loop, given)
    choices.sort(key=lambda c: _rank(c, limit))
    best = choices[0] if not choices[0].refused else None
    return Found(
        recommended="nothing on hand" if best is None else best.title,
        because=_because(best, loop),
        unlimited_amps=corners(
            lambda v, r, x: v / max(math.hypot(r, x), 1e-9),
            given.supply_volts,
            given.source_resistance_ohms,
            given.source_reactance_ohms,
        ),
        choices=tuple(choices[:MOST_SHOWN]),
    )


def _rank(choice: Choice, limit: float) -> tuple[bool, bool, float]:
    """Those that may be used first, the nearest below the limit before the others."""
    amps = choice.shorted_amps
    return choice.refused, amps is None, -amps.value if amps is not None else limit


def _because(best: Choice | None, loop: _Loop) -> str:
    if best is None or best.shorted_amps is None:
        return f"nothing keeps it below {engineering(loop.limit, 'A')}"
    amps = engineering(best.shorted_amps.value, "A")
    return f"{amps} shorted, the nearest below {engineering(loop.limit, 'A')}; {best.reason}"


def _itself(loop: _Loop) -> Choice:
    """The piece's own impedance, its shunts left in."""
    over = loop.amps > loop.limit
    return Choice(
        title="shunts left in",
        kind="own impedance",
        parts="the piece itself",
        shorted_amps=exact(loop.amps, "V/|Z|"),
        loaded_amps=_amps(loop, loop.own),
        load_volts=_volts(loop, loop.own),
        heat_watts=exact(loop.amps**2 * loop.own.real, "I²R"),
        if_it_fails="shunts saturate at full volts: more flows than a test at low volts says",
        refused=over,
        reason="its own impedance lets too much flow" if over else "nothing to add",
    )


def _amps(loop: _Loop, z: complex) -> Quantity | None:
    found = loaded_by(loop.volts, z, loop.load, None)
    return None if found is None else exact(found.amps, "phasors, REF-B-02")


def _volts(loop: _Loop, z: complex) -> Quantity | None:
    found = loaded_by(loop.volts, z, loop.load, None)
    return None if found is None else exact(found.volts, "phasors, REF-B-02")


def _hot_shorted(loop: _Loop, watts: float, volts: float, lamp: bool) -> tuple[float, float, float]:
    # amps, watts, and how far off the law may be
    if lamp:
        short = through(loop.volts, watts, volts, loop.own.real, loop.own.imag)
        return short.amps, short.watts, LAMP_LAW
    ohms = volts**2 / watts
    amps = loop.volts / abs(loop.own + ohms)
    return amps, amps**2 * ohms, 0.05


def _hot(loop: _Loop, item: Item) -> Iterator[Choice]:
    """A lamp or heater, alone and some of its like side by side."""
    watts = item.figures["watts"]
    volts = item.figures.get("volts") or loop.volts
    for count in range(1, min(item.count, SIDE_BY_SIDE) + 1):
        whole = count * watts
        lamp = item.kind.key == "lamp"
        amps, heat, law = _hot_shorted(loop, whole, volts, lamp)
        over = amps > loop.limit
        hotter = heat > whole * MAINS_RISE**2
        kept = _hot_loaded(loop, whole, volts, lamp)
        cold = "cold it passes 12 to 16 times as much for a tenth of a second"
        yield Choice(
            title=f"{count} × {item.title}" if count > 1 else item.title,
            kind=item.kind.one,
            parts=f"{count} × {engineering(watts, 'W')}",
            shorted_amps=Quantity(amps, amps * (1 - law), amps * (1 + law), ("REF-B-05",)),
            loaded_amps=None if kept is None else exact(kept[0], "REF-B-05"),
            load_volts=None if kept is None else exact(kept[1], "REF-B-05"),
            heat_watts=exact(heat, "I²R"),
            if_it_fails="open: dead; " + (cold if lamp else "it glows where it may be touched"),
            refused=over or hotter,
            reason=_hot_reason(over, hotter, lamp),
        )


def _hot_reason(over: bool, hotter: bool, lamp: bool) -> str:
    if over:
        return "it lets more flow than is wanted"
    if hotter:
        return "it would take more than its watts"
    return "a lamp shows what flows" if lamp else "straight ohms: all that is held back is heat"


def _hot_loaded(loop: _Loop, watts: float, volts: float, lamp: bool) -> tuple[float, float] | None:
    """Amps and volts of the load behind it."""
    if loop.load is None:
        return None
    if lamp:
        found = through(loop.volts, watts, volts, loop.own.real + loop.load, loop.own.imag)
        return found.amps, found.amps * loop.load
    amps = loop.volts / abs(loop.own + volts**2 / watts + loop.load)
    return amps, amps * loop.load


def _resistor(loop: _Loop, item: Item) -> Choice:
    """A resistor of the stores."""
    ohms = item.figures["ohms"]
    z = loop.own + ohms
    amps = loop.volts / abs(z)
    heat = amps**2 * ohms
    rated = item.figures.get("watts")
    over, hotter = amps > loop.limit, rated is None or heat > rated
    reason = "it lets more flow than is wanted" if over else "straight ohms, all heat"
    if hotter and not over:
        told = engineering(heat, "W")
        reason = f"it would take {told}" + (", and its watts are not told" if rated is None else "")
    return Choice(
        title=item.title,
        kind=item.kind.one,
        parts=engineering(ohms, "Ω"),
        shorted_amps=exact(amps, "phasors, REF-B-02"),
        loaded_amps=_amps(loop, z),
        load_volts=_volts(loop, z),
        heat_watts=exact(heat, "I²R"),
        if_it_fails="open: dead, and the line's volts stand on it",
        refused=over or hotter,
        reason=reason,
    )


def _capacitor(loop: _Loop, item: Item, given: Given) -> Choice:
    """A capacitor in series, where it keeps from resonance and bears the volts."""
    xc = 1 / (loop.omega * item.figures["farads"])
    z = loop.own - 1j * xc
    amps = loop.volts / max(abs(z), 1e-9)
    return Choice(
        title=item.title,
        kind=item.kind.one,
        parts=engineering(item.figures["farads"], "F"),
        shorted_amps=exact(amps, "phasors, REF-B-02"),
        loaded_amps=_amps(loop, z),
        load_volts=_volts(loop, z),
        heat_watts=exact(0.0, "none of its own"),
        if_it_fails=f"shorted: {engineering(loop.amps, 'A')}; open: dead, and it stays charged",
        refused=bool(_against(loop, item, given, xc, amps)),
        reason=_against(loop, item, given, xc, amps) or "no heat, but it stays charged",
    )


def _against(loop: _Loop, item: Item, given: Given, xc: float, amps: float) -> str:
    """What forbids a capacitor; nothing where nothing does."""
    ratio = xc / max(loop.own.imag, 1e-9)
    if FORBIDDEN[0] <= ratio <= FORBIDDEN[1]:
        return f"its reactance is {times(ratio)} the piece's: it multiplies volts"
    if ratio < FORBIDDEN[0]:
        return "so large a capacitor limits nothing"
    if given.magnetising_ohms is None:
        return "whether it jumps with iron that nothing loads is not known"
    if xc <= given.magnetising_ohms:
        return "iron that nothing loads jumps into resonance with it"
    bears = item.figures.get("volts_ac")
    if bears is None:
        return "its AC volts are not known"
    if amps * xc * MAINS_RISE > bears:
        return f"{engineering(amps * xc, 'V')} would stand on it"
    return "it lets more flow than is wanted" if amps > loop.limit else ""


def _banks(given: Given) -> ballast_bank.Found | None:
    keys = ("short_amps", "at_volts", "at_hertz", "ohms", "rated_amps")
    rows = tuple(
        ballast_bank.Ballast(
            title=i.title,
            count=max(1, i.count),
            **{k: i.figures[k] for k in keys if i.figures.get(k) is not None},
        )
        for i in itertools.islice(given.stores.of("ballast"), 6)
    )
    if not rows:
        return None
    return ballast_bank.work(
        ballast_bank.Given(
            limit_amps=given.limit_amps,
            supply_volts=given.supply_volts,
            supply_hertz=given.supply_hertz,
            ballasts=rows,
            source_resistance_ohms=given.source_resistance_ohms,
            source_reactance_ohms=given.source_reactance_ohms,
            load_ohms=given.load_ohms,
        )
    )


def _banked(given: Given) -> Iterator[Choice]:
    """The best banks of the ballasts on hand, and the nearest above where none fits."""
    found = _banks(given)
    if found is None:
        return
    above = [found.next_above] if found.next_above is not None and not found.choices else []
    own = complex(given.source_resistance_ohms.value, given.source_reactance_ohms.value)
    alone = engineering(given.supply_volts.value / abs(own), "A")
    for c in [*found.choices[:BANKS], *above]:
        over = c in above
        held = None
        if c.loaded_amps is not None and given.load_ohms is not None:
            held = exact(c.loaded_amps.value * given.load_ohms, "phasors, REF-B-02")
        yield Choice(
            title=c.parts,
            kind="ballast",
            parts=c.connection,
            shorted_amps=c.shorted_amps,
            loaded_amps=c.loaded_amps,
            load_volts=held,
            heat_watts=None,
            if_it_fails=f"one of it shorted: up to {alone}, full mains on the piece",
            refused=over or c.over_rating,
            reason=_bank_reason(over, c.over_rating),
        )


def _bank_reason(over: bool, rating: bool) -> str:
    if over:
        return "it lets more flow than is wanted"
    return "above its rating" if rating else "limits with little heat, and hums"


def _variac(loop: _Loop, item: Item) -> Choice:
    """A variac, which is none."""
    return Choice(
        title=item.title,
        kind=item.kind.one,
        parts="1",
        shorted_amps=None,
        loaded_amps=None,
        load_volts=None,
        heat_watts=None,
        if_it_fails=f"a short behind it draws what the line gives, {engineering(loop.amps, 'A')}",
        refused=True,
        reason="a variac sets volts and limits nothing",
    )


LIMITER = Planner(
    name="limiter",
    title="What limits it",
    purpose="Everything on hand that can hold a current, side by side, and one recommended.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="I = V/|Z_own + Z_limiter|; lamps I ∝ V^0.55",
        source="REF-B-01 to REF-B-05, B-T1",
        put="with nothing ahead {unlimited_amps}; wanted at most {limit_amps}: {recommended}",
    ),
    cautions=(
        Caution(
            code="nothing-limits",
            severity="stop",
            sentence=(
                "Nothing on hand holds it below {limit_amps}: with nothing ahead {unlimited_amps} "
                "would flow. Do not switch it on."
            ),
            when=lambda given, found: found.choices[0].refused,
        ),
        Caution(
            code="not-touch",
            severity="caution",
            sentence=(
                "No limiter is a measure against touch: it lowers what flows into a short, not "
                "what flows through a person."
            ),
        ),
        Caution(
            code="in-the-line",
            severity="caution",
            sentence=(
                "It stands in the line conductor, proved so; in the neutral the winding stays at "
                "the line's volts."
            ),
        ),
    ),
    of_piece=(starts.CONDEMNED, starts.DOUBTFUL),
    example={
        "supply_volts": 230.0,
        "supply_hertz": 50.0,
        "limit_amps": 3.0,
        "source_resistance_ohms": 3.0,
        "source_reactance_ohms": 9.0,
        "load_ohms": 40.0,
        "magnetising_ohms": 120.0,
        "stores": [
            {"id": "S1", "kind": "lamp", "title": "clear 200 W", "watts": 200, "count": 4},
            {"id": "S2", "kind": "heater", "title": "fan heater", "watts": 1000, "volts": 230},
            {
                "id": "S3",
                "kind": "ballast",
                "title": "mercury 250",
                "short_amps": 3.0,
                "at_volts": 230,
                "at_hertz": 50,
            },
            {
                "id": "S4",
                "kind": "capacitor",
                "title": "run 20 µF",
                "farads": 2e-5,
                "volts_ac": 450,
            },
            {"id": "S5", "kind": "variac", "title": "dial", "brush_amps": 8, "line_volts": 230},
        ],
    },
    checks=(
        Check(
            given={
                "supply_volts": 230.0,
                "supply_hertz": 50.0,
                "limit_amps": 6.0,
                "source_resistance_ohms": 3.0,
                "source_reactance_ohms": 0.001,
                "load_ohms": 20.0,
                "stores": [
                    {
                        "id": "B",
                        "kind": "ballast",
                        "title": "39 Ω",
                        "short_amps": 230 / 39,
                        "at_volts": 230,
                        "at_hertz": 50,
                    }
                ],
            },
            expected={"choices.0.loaded_amps": 5.080},
            source="REF-B-02a: R 3, X 39, load 20 Ω: 5.080 A",
        ),
        Check(
            given={
                "supply_volts": 230.0,
                "supply_hertz": 50.0,
                "limit_amps": 2.0,
                "source_resistance_ohms": 77.45,
                "source_reactance_ohms": 0.0,
                "stores": [{"id": "L", "kind": "lamp", "title": "500 W", "watts": 500}],
            },
            expected={"choices.0.shorted_amps": 1.485, "recommended": "500 W"},
            source="REF-B-05a: 500 W 230 V at 115 V: 1.485 A, 77.45 Ω",
            rel=1e-3,
        ),
    ),
)
