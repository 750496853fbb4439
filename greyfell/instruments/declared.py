"""Classes of instruments, one declaration each: how it names itself, is set to a function and read,
how exact it is, what it says beyond its range.

Only queries and settings of a reading stand here; a source's output is switched by a hand.
"""

import re
from collections.abc import Mapping

from msgspec import Struct

from greyfell.core.errors import FieldError

OVER = 9.9e37
"""What a SCPI instrument answers beyond its range. SCPI-1999 vol. 1, 7.2.1.4."""
FORBIDDEN = re.compile(r"OUTP|SOUR|\bINST|APPL|VOLT(?!:)\s+[0-9]|CURR(?!:)\s+[0-9]|\bON\b", re.I)
"""Words of commands that set or switch an output: none is ever sent."""


class Function(Struct, frozen=True, kw_only=True):
    """One function: its unit as the jotter writes it, commands to set it and to read it, its limits
    as per cent of the figure and counts in its last place, the last place at its lowest range.
    """

    key: str
    title: str
    unit: str
    configure: str
    read: str
    percent: float
    least: float
    most: float


class Instrument(Struct, frozen=True, kw_only=True):
    """A class of instruments: its key and title, a pattern of what it answers to *IDN?, its
    functions, seconds it may take to answer.
    """

    key: str
    title: str
    known_by: str
    functions: Mapping[str, Function]
    seconds: float = 3.0

    def function(self, key: str) -> Function:
        """One of its functions. Raises FieldError where it has none of that name."""
        if key not in self.functions:
            raise FieldError(
                "function",
                f"A {self.title} reads {', '.join(self.functions)}; “{key[:20]}” is none.",
            )
        return self.functions[key]


def _f(key: str, title: str, unit: str, scpi: str, *limits: float) -> Function:
    percent, least, most = limits
    return Function(
        key=key,
        title=title,
        unit=unit,
        configure=f"CONF:{scpi}",
        read="READ?",
        percent=percent,
        least=least,
        most=most,
    )


def _m(key: str, title: str, unit: str, query: str, *limits: float) -> Function:
    """A figure that is asked for in one query, without a setting."""
    percent, least, most = limits
    return Function(
        key=key,
        title=title,
        unit=unit,
        configure="",
        read=query,
        percent=percent,
        least=least,
        most=most,
    )


def _all(*functions: Function) -> dict[str, Function]:
    return {f.key: f for f in functions}


INSTRUMENTS: tuple[Instrument, ...] = (
    Instrument(
        key="multimeter",
        title="bench multimeter",
        known_by=r"MULTIMETER|DMM",
        functions=_all(
            _f("ohms", "resistance", "", "RES", 0.05, 1e-2, 1e8),
            _f("ohms-4", "resistance by four wires", "", "FRES", 0.05, 1e-4, 1e8),
            _f("volts", "AC volts, true RMS", "V", "VOLT:AC", 0.3, 1e-4, 750.0),
            _f("volts-dc", "DC volts", "V", "VOLT:DC", 0.05, 1e-5, 1000.0),
            _f("amps", "AC amps", "A", "CURR:AC", 0.5, 1e-5, 10.0),
        ),
    ),
    Instrument(
        key="wattmeter",
        title="wattmeter",
        known_by=r"WATTMETER|POWER",
        functions=_all(
            _m("volts", "volts", "V", "MEAS:VOLT?", 0.2, 1e-2, 600.0),
            _m("amps", "amps", "A", "MEAS:CURR?", 0.3, 1e-4, 20.0),
            _m("watts", "watts", "W", "MEAS:POW?", 0.5, 1e-2, 1.2e4),
        ),
    ),
    Instrument(
        key="inductance-meter",
        title="inductance meter",
        known_by=r"LCR|INDUCTANCE",
        functions=_all(
            _m("henries", "inductance at 100 Hz", "H", "FETC:IMP:LS?", 0.5, 1e-7, 1e4),
            _m("q", "quality at 100 Hz", "", "FETC:IMP:Q?", 2.0, 1e-2, 1e3),
        ),
    ),
)
"""Classes of instruments. SCPI-1999, vol. 2; limits of the class, from memory."""


def instrument_of(key: str) -> Instrument:
    """A class by its key. Raises FieldError."""
    for instrument in INSTRUMENTS:
        if instrument.key == key:
            return instrument
    known = ", ".join(i.key for i in INSTRUMENTS)
    raise FieldError("speaks", f"An instrument is one of: {known}; “{key[:20]}” is none.")


def commands() -> list[str]:
    """Everything that is ever sent."""
    out = ["*IDN?"]
    for instrument in INSTRUMENTS:
        for f in instrument.functions.values():
            out += [c for c in (f.configure, f.read) if c]
    return out
