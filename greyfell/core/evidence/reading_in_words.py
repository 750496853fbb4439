"""A reading told in a line: one function for every kind, wherever a reading is shown."""

from collections.abc import Callable, Iterable
from typing import Any

from greyfell.core.evidence.record import (
    CoreProof,
    DcDrop,
    Direct,
    EarthVoltage,
    Inductance,
    Insulation,
    Lamp,
    LeakageCurrent,
    Load,
    Loop,
    NoLoad,
    Path,
    Polarity,
    Ratio,
    Resistance,
    ShortCircuit,
    Soak,
    TestTurn,
    Turns,
)
from greyfell.core.figures.notation import as_read


def told(reading: Any) -> str:
    """A reading as it is read out, in the hand of the jotter.

    >>> told(Ratio(driven=("E", "core"), driven_volts=124.5, sensed=("A", "B"), sensed_volts=5.9))
    'E–core 124.5 V > A–B 5.9 V'
    """
    line = TELLERS[reading.kind](reading)
    extra = [word for word, so in _beside(reading) if so]
    return f"{line} ({', '.join(extra)})" if extra else line


def _beside(r: Any) -> Iterable[tuple[str, Any]]:
    """What stands beside a reading: how it was read, and where."""
    yield "claimed", getattr(r, "claimed", False)
    yield "about", getattr(r, "about", False)
    ends_at = [
        f"{x:g}" for x in (getattr(r, "least", None), getattr(r, "most", None)) if x is not None
    ]
    yield f"moved, {' to '.join(ends_at)}", ends_at
    yield str(getattr(r, "where", None)), getattr(r, "where", None) not in (None, "piece")
    joined = ", ".join(ends(pair) for pair in getattr(r, "links", None) or ())
    yield f"{joined} joined outside", joined
    celsius = getattr(r, "celsius", None)
    yield f"{celsius:g} °C" if celsius is not None else "", celsius is not None


def basis_of(readings: Iterable[Any]) -> tuple[str, ...]:
    """The basis of a figure: each reading's kind and id, once, in order."""
    return tuple(dict.fromkeys(f"{r.kind.replace('_', ' ')} {r.id}" for r in readings))


def ends(pair: tuple[str, str]) -> str:
    """Two points, as they are said."""
    return "–".join(pair)


def _resistance(r: Resistance) -> str:
    if r.ohms == "open":
        over = f", over {as_read(r.range_ohms, 'Ω')}" if r.range_ohms else ""
        return f"{ends(r.between)} open{over}"
    probes = "" if r.probe_ohms is None else f", probes {as_read(r.probe_ohms, 'Ω')}"
    return f"{ends(r.between)} {as_read(r.ohms, 'Ω')}{probes}"


def _core_proof(r: CoreProof) -> str:
    return f"core proof {as_read(r.ohms, 'Ω')}"


def _dc_drop(r: DcDrop) -> str:
    return f"{ends(r.across)} {as_read(r.volts, 'V')} at {as_read(r.amps, 'A')} DC"


def _insulation(r: Insulation) -> str:
    ohms = "open" if r.ohms == "open" else as_read(r.ohms, "Ω")
    return f"{ends(r.between)} {ohms} at {as_read(r.test_volts, 'V')}"


def _inductance(r: Inductance) -> str:
    quality = f", Q {r.q:g}" if r.q else ""
    shorted = ", ".join(ends(pair) for pair in r.shorted)
    closed = f", {shorted} shorted" if shorted else ""
    at = f" at {as_read(r.hertz, 'Hz')}" if r.hertz else ", hertz not noted"
    return f"{ends(r.across)} {as_read(r.henries, 'H')}{at}{quality}{closed}"


def _lamp(r: Lamp) -> str:
    left = ""
    if r.lamp_volts is not None and r.winding_volts is not None:
        left = f", takes {as_read(r.lamp_volts, 'V')}, leaves {as_read(r.winding_volts, 'V')}"
    return f"{ends(r.across)} lamp {as_read(r.lamp_watts, 'W')} {r.glow}{left}"


def _ratio(r: Ratio) -> str:
    driven = f"{ends(r.driven)} {as_read(r.driven_volts, 'V')}"
    return f"{driven} > {ends(r.sensed)} {as_read(r.sensed_volts, 'V')}"


def _polarity(r: Polarity) -> str:
    driven = f"{ends(r.driven)} {as_read(r.driven_volts, 'V')}"
    return f"{driven}, {ends(r.joined)} joined: {ends(r.across)} {as_read(r.across_volts, 'V')}"


def _no_load(r: NoLoad) -> str:
    read = [as_read(x, u) for x, u in ((r.amps, "A"), (r.watts, "W")) if x is not None]
    return f"{ends(r.driven)} {as_read(r.volts, 'V')}: {', '.join(read)}"


def _short_circuit(r: ShortCircuit) -> str:
    watts = "" if r.watts is None else f", {as_read(r.watts, 'W')}"
    shorted = ", ".join(ends(pair) for pair in r.shorted)
    driven = f"{ends(r.driven)} {as_read(r.volts, 'V')} {as_read(r.amps, 'A')}{watts}"
    return f"{driven} with {shorted} shorted"


def _load(r: Load) -> str:
    driven = f"{ends(r.driven)} {as_read(r.driven_volts, 'V')}"
    taken = ""
    if r.load_amps is not None:
        taken = f" {as_read(r.load_amps, 'A')}"
    elif r.load_ohms is not None:
        taken = f" into {as_read(r.load_ohms, 'Ω')}"
    return f"{driven} > {ends(r.loaded)} {as_read(r.load_volts, 'V')}{taken}"


def _test_turn(r: TestTurn) -> str:
    driven = f"{ends(r.driven)} {as_read(r.driven_volts, 'V')}"
    return f"{driven} > {r.turns:g} turns {as_read(r.turn_volts, 'V')}"


def _turns(r: Turns) -> str:
    return f"{ends(r.across)} {r.turns:g} turns"


def _leakage_current(r: LeakageCurrent) -> str:
    driven = f"{ends(r.driven)} {as_read(r.driven_volts, 'V')}"
    return f"{driven} > {r.from_} to {r.to} {as_read(r.amps, 'A')}"


def _earth_voltage(r: EarthVoltage) -> str:
    meter = "" if r.meter_ohms is None else f" by {as_read(r.meter_ohms, 'Ω')}"
    return f"{r.from_} to {r.to} {as_read(r.volts, 'V')}{meter}"


def _soak(r: Soak) -> str:
    at = "" if r.volts is None else f" on {as_read(r.volts, 'V')}"
    watts = "" if r.watts is None else f", {as_read(r.watts, 'W')}"
    ohms = f"{as_read(r.cold_ohms, 'Ω')} to {as_read(r.hot_ohms, 'Ω')}"
    return f"{ends(r.across)} soak {r.minutes:g} min{at}{watts}: {ohms}"


def _direct(r: Direct) -> str:
    driven = f"{ends(r.driven)} {as_read(r.driven_volts, 'V')}"
    taken = "" if r.direct_amps is None else f" {as_read(r.direct_amps, 'A')}"
    return f"{driven} > {ends(r.rectified)} {r.rectifier} {as_read(r.direct_volts, 'V')}{taken}"


def _loop(r: Loop) -> str:
    taken = "" if r.driven_amps is None else f" {as_read(r.driven_amps, 'A')}"
    driven = f"{ends(r.driven)} {as_read(r.driven_volts, 'V')}{taken}"
    return f"{driven} > {ends(r.loaded)} loop {as_read(r.loop_amps, 'A')}"


def _path(r: Path) -> str:
    return f"path {r.part}: {as_read(r.volts, 'V')} at {as_read(r.amps, 'A')}"


TELLERS: dict[str, Callable[[Any], str]] = {
    "resistance": _resistance,
    "core_proof": _core_proof,
    "dc_drop": _dc_drop,
    "insulation": _insulation,
    "inductance": _inductance,
    "lamp": _lamp,
    "ratio": _ratio,
    "polarity": _polarity,
    "no_load": _no_load,
    "short_circuit": _short_circuit,
    "load": _load,
    "test_turn": _test_turn,
    "turns": _turns,
    "leakage_current": _leakage_current,
    "earth_voltage": _earth_voltage,
    "soak": _soak,
    "direct": _direct,
    "loop": _loop,
    "path": _path,
}
"""Every kind of reading with its teller."""
