"""Simulated instruments on a simulated piece: readings with the errors of real meters, in the
record's own form.
"""

import math
from typing import Any

import numpy as np
from msgspec import Struct, field

from greyfell.core.errors import FieldError
from greyfell.core.truth.direct_current import dc_ohms
from greyfell.core.truth.loaded import (
    earth_volts,
    leakage_amps,
    loaded,
    series_volts,
    short_circuit,
    soaked_ohms,
)
from greyfell.core.truth.piece import Piece
from greyfell.core.truth.readings import induced_volts, inductance, no_load, test_turn_volts

LINE_WANDER, SOURCE_WANDER = 0.006, 0.004
"""How far the line's volts, and a small source's on the same line, move between two readings of one
minute: standard deviation of the share. From memory."""


class Kit(Struct, frozen=True, kw_only=True):
    """An owner's instruments: ohmmeter (lowest resolution Ω, per cent, counts), volts and henries
    per cent, probes Ω.
    """

    ohms_step: float = 0.1
    ohms_percent: float = 0.8
    counts: float = 3.0
    volts_percent: float = 1.0
    henries_percent: float = 1.5
    probe_ohms: float = 0.2
    probes_noted: bool = True
    range_ohms: float | None = 20e6
    accuracy_noted: bool = True


TESTED = "insulation"
"""The kind of what an insulation tester reads."""
BOND = {"kind": "dc_drop", "across": ["earth", "core"], "volts": 0.4, "amps": 10.0}
"""The bond of a bench that is sound."""
CRESTS = {
    "bridge": (1.0, 2),
    "half-wave": (1.0, 1),
    "centre-tap": (0.5, 1),
    "doubler": (2.0, 2),
}
"""Crests of the whole winding behind each rectifier, and diodes in the way. R-T1."""
FLAT_TOP, SILICON = (0.975, 0.012), 0.6
"""A line's crest over a sine's, and its spread; a diode's drop at a meter's amps, V. Common
practice."""


class SimulatedBench(Struct):
    """A piece on the bench with a kit of instruments; every method takes a reading and returns it
    as the record has it.
    """

    piece: Piece
    kit: Kit
    rng: np.random.Generator
    celsius: float = 20.0
    wander: float = 1.0
    taken: list[dict[str, Any]] = field(default_factory=list)
    gains: dict[str, float] = field(default_factory=dict)

    def _gain(self, function: str, percent: float, span: float | None = None) -> float:
        """A meter's own gain error on one function, the same for every reading it takes; each range
        adds its own divider's.
        """
        own = function if span is None else f"{function} {span:g}"
        parts = {function: 0.7} if span is None else {function: 0.35, own: 0.45}
        for name, share in parts.items():
            if name not in self.gains:
                self.gains[name] = float(self.rng.uniform(-share, share))
        drift = float(self.rng.uniform(-0.3, 0.3) if span is None else self.rng.uniform(-0.2, 0.2))
        return 1 + (sum(self.gains[name] for name in parts) + drift) * percent / 100

    def _volts(self, volts: float) -> tuple[float, float]:
        """What a voltmeter shows of these volts, and the worth of its last figure."""
        step = volts_step(volts)
        return _round(volts * self._gain("volts", self.kit.volts_percent, step), step), step

    def _add(self, reading: dict[str, Any]) -> dict[str, Any]:
        reading = {"id": f"r{len(self.taken) + 1}", **reading}
        self.taken.append(reading)
        return reading

    def _digits(self, step: float) -> dict[str, float]:
        return (
            {"percent": self.kit.ohms_percent, "digits": round(self.kit.counts * step, 6)}
            if self.kit.accuracy_noted
            else {}
        )

    def ohms(self, x: str, y: str, range_ohms: float | None = None) -> dict[str, Any]:
        """An ohmmeter between two points, probes included in what it shows."""
        true = dc_ohms(self.piece, x, y, self.celsius)
        over = range_ohms if range_ohms is not None else self.kit.range_ohms
        reading: dict[str, Any] = {"kind": "resistance", "between": [x, y]}
        if true > (over or 40e6):
            reading["ohms"] = "open"
            if over:
                reading["range_ohms"] = over
            return self._add(reading)
        raw = (true + self.kit.probe_ohms) * self._gain("ohms", self.kit.ohms_percent)
        step = ohms_step(raw, self.kit.ohms_step)
        raw += float(self.rng.uniform(-1, 1)) * 0.5 * self.kit.counts * step
        reading["ohms"] = max(0.0, _round(raw, step))
        if self.kit.probes_noted:
            reading["probe_ohms"] = _round(self.kit.probe_ohms, self.kit.ohms_step)
        return self._add({**reading, **self._digits(step)})

    def core_proof(self) -> dict[str, Any]:
        """Two bare spots of the iron against each other."""
        return self._add(
            {
                "kind": "core_proof",
                "ohms": _round(
                    self.kit.probe_ohms + float(self.rng.uniform(0, 0.1)), self.kit.ohms_step
                ),
            }
        )

    def dc_drop(self, x: str, y: str, amps: float) -> dict[str, Any]:
        """Volts at a winding's ends with a small direct current through it."""
        ohms = dc_ohms(self.piece, x, y, self.celsius)
        volts = amps * ohms * self._gain("dc volts", 1.0)
        return self._add(
            {
                "kind": "dc_drop",
                "across": [x, y],
                "volts": three(volts, 4),
                "amps": three(amps * self._gain("dc amps", 1.0), 4),
                "percent": 1.5,
            }
        )

    def ratio(
        self, driven: tuple[str, str], volts: float, sensed: tuple[str, str], hertz: float
    ) -> dict[str, Any]:
        """Volts on one pair with another driven."""
        out = induced_volts(self.piece, driven, volts, sensed, hertz)
        usual = LINE_WANDER if volts > 60 else SOURCE_WANDER
        wander = float(self.rng.normal(0, usual * self.wander))
        (given, given_step), (read, read_step) = self._volts(volts), self._volts(out * (1 + wander))
        accuracy = {
            "accuracy": {
                "driven_volts": {"percent": self.kit.volts_percent, "digits": 3 * given_step},
                "sensed_volts": {"percent": self.kit.volts_percent, "digits": 3 * read_step},
            }
        }
        reading: dict[str, Any] = {
            "kind": "ratio",
            "driven": list(driven),
            "driven_volts": given,
            "sensed": list(sensed),
            "sensed_volts": max(read, 0.0),
            "hertz": hertz,
        }
        return self._add({**reading, **(accuracy if self.kit.accuracy_noted else {})})

    def inductance(self, x: str, y: str, hertz: float) -> dict[str, Any]:
        """An inductance meter across a winding, others open."""
        henries, q = inductance(self.piece, (x, y), hertz)
        shown = abs(henries) * self._gain("henries", self.kit.henries_percent)
        return self._add(
            {
                "kind": "inductance",
                "across": [x, y],
                "henries": three(max(shown, 1e-7), 4),
                "hertz": hertz,
                "q": three(q, 2),
            }
        )

    def no_load(
        self, driven: tuple[str, str], volts: float, hertz: float, watts: bool = True
    ) -> dict[str, Any]:
        """Amps and watts at no load."""
        amps, power = no_load(self.piece, driven, volts, hertz)
        reading: dict[str, Any] = {
            "kind": "no_load",
            "driven": list(driven),
            "volts": three(volts * self._gain("volts", self.kit.volts_percent), 4),
            "amps": three(amps * self._gain("amps", 2.0), 3),
            "hertz": hertz,
        }
        if watts:
            reading["watts"] = three(power * self._gain("watts", 2.0), 3)
        return self._add(reading)

    def test_turn(
        self, driven: tuple[str, str], volts: float, turns: int, hertz: float
    ) -> dict[str, Any]:
        """A few turns of thin wire through the window."""
        out = test_turn_volts(self.piece, driven, volts, turns, hertz)
        return self._add(
            {
                "kind": "test_turn",
                "driven": list(driven),
                "driven_volts": three(volts * self._gain("volts", self.kit.volts_percent), 4),
                "turns": turns,
                "turn_volts": three(out * self._gain("volts", self.kit.volts_percent), 4),
            }
        )

    def turns(self, x: str, y: str) -> dict[str, Any]:
        """Turns counted by eye: exact for a few, a miscount of some per cent for many."""
        spot = self.piece.locate(x, y)
        if spot is None:
            raise FieldError("across", "The pair must lie on a winding.")
        true = spot[0].turns * abs(spot[1] - spot[2])
        count = round(true) if true < 12 else round(true * (1 + float(self.rng.normal(0, 0.03))))
        return self._add({"kind": "turns", "across": [x, y], "turns": max(1, count)})

    def insulation(self, x: str, y: str, volts: float) -> dict[str, Any]:
        """An insulation tester between two points."""
        true = dc_ohms(self.piece, x, y)
        ohms: Any = "open" if true > 2e9 else three(true * float(self.rng.uniform(0.93, 1.07)), 2)
        return self._add({"kind": TESTED, "between": [x, y], "ohms": ohms, "test_volts": volts})

    def short_circuit(
        self, driven: tuple[str, str], shorted: tuple[str, str], volts: float, hertz: float
    ) -> dict[str, Any]:
        """Amps and watts with a winding shorted, at reduced volts."""
        amps, watts, other = short_circuit(self.piece, driven, shorted, volts, hertz)
        return self._add(
            {
                "kind": "short_circuit",
                "driven": list(driven),
                "shorted": [list(shorted)],
                "volts": three(volts, 4),
                "amps": three(amps * self._gain("amps", 2.0)),
                "watts": three(watts * self._gain("watts", 2.0)),
                "shorted_amps": three(other),
                "hertz": hertz,
            }
        )

    def load(
        self,
        driven: tuple[str, str],
        volts: float,
        pair: tuple[str, str],
        ohms: float,
        hertz: float,
    ) -> dict[str, Any]:
        """A loaded point."""
        out, amps = loaded(self.piece, driven, volts, pair, ohms, hertz)
        return self._add(
            {
                "kind": "load",
                "driven": list(driven),
                "driven_volts": three(volts, 4),
                "loaded": list(pair),
                "load_volts": three(out * self._gain("volts", self.kit.volts_percent), 4),
                "load_amps": three(amps * self._gain("amps", 2.0)),
            }
        )

    def direct(
        self,
        driven: tuple[str, str],
        volts: float,
        pair: tuple[str, str],
        rectifier: str,
        hertz: float,
    ) -> dict[str, Any]:
        """Direct volts behind a rectifier with nothing joined: crests of a line whose top is flat,
        less silicon's drops. REF-R-02, R-03.
        """
        crests, diodes = CRESTS[rectifier]
        across = induced_volts(self.piece, driven, volts, pair, hertz)
        top = math.sqrt(2) * crests * across * float(self.rng.normal(*FLAT_TOP))
        found = max(top - diodes * SILICON, 1e-3)
        return self._add(
            {
                "kind": "direct",
                "driven": list(driven),
                "driven_volts": three(volts, 4),
                "rectified": list(pair),
                "rectifier": rectifier,
                "direct_volts": three(found * self._gain("volts", self.kit.volts_percent), 4),
            }
        )

    def loop(
        self,
        driven: tuple[str, str],
        volts: float,
        pair: tuple[str, str],
        ohms: float,
        hertz: float,
    ) -> dict[str, Any]:
        """Amps of a clamp round an output's loop, and round the feed: the loop's by the turns, the
        idle amps in quadrature. Kirchhoff.
        """
        _, amps = loaded(self.piece, driven, volts, pair, ohms, hertz)
        idle, _ = no_load(self.piece, driven, volts, hertz)
        turns = induced_volts(self.piece, driven, volts, pair, hertz) / volts
        return self._add(
            {
                "kind": "loop",
                "driven": list(driven),
                "driven_volts": three(volts, 4),
                "driven_amps": three(math.hypot(amps * turns, idle) * self._gain("amps", 3.0)),
                "loaded": list(pair),
                "loop_amps": three(amps * self._gain("amps", 3.0)),
            }
        )

    def path(self, part: str, ohms: float, amps: float) -> dict[str, Any]:
        """Millivolts over a part of a path."""
        volts = three(ohms * amps * self._gain("volts", self.kit.volts_percent))
        return self._add({"kind": "path", "part": part, "volts": volts, "amps": three(amps)})

    def polarity(
        self,
        driven: tuple[str, str],
        volts: float,
        other: tuple[str, str],
        hertz: float,
        *,
        alike: bool,
    ) -> dict[str, Any]:
        """Two windings in series, the far ends read: `alike` where the driven start and the other's
        joined end are unlike.
        """
        across = series_volts(self.piece, driven, volts, other, hertz, alike=alike)
        return self._add(
            {
                "kind": "polarity",
                "driven": list(driven),
                "driven_volts": three(volts, 4),
                "joined": [driven[1], other[0]],
                "across": [driven[0], other[1]],
                "across_volts": three(across * self._gain("volts", self.kit.volts_percent), 4),
            }
        )

    def earth_voltage(
        self, lead: str, driven: tuple[str, str], volts: float, meter_ohms: float, hertz: float
    ) -> dict[str, Any]:
        """Ghost volts of a floating winding."""
        return self._add(
            {
                "kind": "earth_voltage",
                "from": lead,
                "to": "earth",
                "volts": three(earth_volts(volts, meter_ohms, hertz)),
                "meter_ohms": meter_ohms,
                "driven": list(driven),
                "driven_volts": volts,
            }
        )

    def leakage_current(
        self, lead: str, driven: tuple[str, str], volts: float, hertz: float
    ) -> dict[str, Any]:
        """Touch current to earth."""
        return self._add(
            {
                "kind": "leakage_current",
                "from": lead,
                "to": "earth",
                "amps": three(leakage_amps(volts, hertz)),
                "driven": list(driven),
                "driven_volts": volts,
            }
        )

    def soak(
        self, driven: tuple[str, str], volts: float, hertz: float, minutes: float
    ) -> dict[str, Any]:
        """Ohms of the fed winding cold, and hot after minutes at no load."""
        _, watts = no_load(self.piece, driven, volts, hertz)
        gain = self._gain("ohms", 0.3)
        hot = soaked_ohms(self.piece, driven, volts, hertz, minutes)
        return self._add(
            {
                "kind": "soak",
                "across": list(driven),
                "driven": list(driven),
                "volts": three(volts, 4),
                "watts": three(watts * self._gain("watts", 2.0)),
                "minutes": minutes,
                "cold_ohms": three(dc_ohms(self.piece, *driven) * gain, 4),
                "hot_ohms": three(hot * gain, 4),
            }
        )

    def lamp(
        self,
        x: str,
        y: str,
        supply: float,
        watts: float | tuple[float, ...],
        hertz: float,
    ) -> dict[str, Any]:
        """A filament lamp in series, or several in a row, which stand for one of fewer watts:
        bright, dim or dark by the share of the supply they are left with. REF-B-05 in spirit.
        """
        row = watts if isinstance(watts, tuple) else (watts,)
        hot = sum(supply**2 / each for each in row)
        share = 0.5
        for _ in range(40):
            amps, _power = no_load(
                self.piece, (x, y), max(supply * math.sqrt(max(0.0, 1 - share**2)), 0.5), hertz
            )
            share = 0.7 * share + 0.3 * min(1.0, amps * hot * max(share, 0.05) ** 0.45 / supply)
        glow = "dark" if share < 0.2 else "dim" if share < 0.65 else "bright"
        return self._add(
            {
                "kind": "lamp",
                "across": [x, y],
                "supply_volts": supply,
                "lamp_watts": three(supply**2 / hot, 4),
                "glow": glow,
            }
        )


def ohms_step(value: float, least: float) -> float:
    """The display step of a 3½-digit ohmmeter on the range that holds the value. Definition of a
    display; common practice.

    >>> ohms_step(96.0, 0.1), ohms_step(9600.0, 0.1)
    (0.1, 10.0)
    """
    for span in (2e1, 2e2, 2e3, 2e4, 2e5, 2e6, 2e7):
        if value < span:
            return max(least, span / 2000)
    return 1e5


def volts_step(value: float) -> float:
    """The display step of a voltmeter on the range that holds the value."""
    for span, step in ((6.0, 0.001), (60.0, 0.01), (600.0, 0.1)):
        if value < span:
            return step
    return 1.0


def _round(value: float, step: float) -> float:
    return float(f"{round(value / step) * step:.6g}")


def three(value: float, figures: int = 3) -> float:
    """A figure to so many significant digits, as it would be written down."""
    return float(f"{value:.{figures}g}")
