"""Reading one figure of one instrument: connected, known by its name, set, read, and let go again.

A figure comes back exactly as the instrument sent it, or a sentence why there is none. After any
trouble the connection is dropped, so that a late answer is never taken for the next one.
"""

import re
from contextlib import closing, suppress
from decimal import Decimal
from typing import Any

import pyvisa
from msgspec import Struct

from greyfell.core.errors import FieldError
from greyfell.instruments.declared import OVER, Function, Instrument

FIGURE = re.compile(r"[+-]?\d+(?:\.\d*)?(?:[eE][+-]?\d+)?|[+-]?\.\d+(?:[eE][+-]?\d+)?")
ADDRESS = re.compile(
    r"TCPIP\d*::[A-Za-z0-9.\-]{1,253}::\d{1,5}::SOCKET"
    r"|ASRL[A-Za-z0-9/._\-]{1,80}::INSTR"
    r"|USB\d*::0x[0-9A-Fa-f]{4}::0x[0-9A-Fa-f]{4}::[A-Za-z0-9_.\-]{1,64}(?:::\d{1,3})?::INSTR"
)
"""Addresses that are opened: a socket, a serial line, a USB instrument."""
LONGEST_ANSWER = 256
NOBODY = "Nobody answers at that address: is it on, is it plugged in?"


class NoFigure(FieldError):
    """An instrument gave no figure, and why."""


class Taken(Struct, frozen=True, kw_only=True):
    """One figure: its text as it was sent, its value, its unit, whether it was beyond the range,
    its limits in per cent, what the instrument calls itself.
    """

    text: str
    value: float
    unit: str
    over: bool
    percent: float
    named: str

    @property
    def line(self) -> str:
        """As the jotter takes it: beyond the range is open, never a figure."""
        if self.over:
            return "open"
        return f"{_plain(self.value)}{self.unit} ±{self.percent:g}%"


def _plain(value: float) -> str:
    """A figure as it is typed, to six digits: its closing noughts tell how finely it was read."""
    return format(Decimal(f"{value:.5e}"), "f")


def checked_address(text: str) -> str:
    """An address of a kind that is opened. Raises FieldError."""
    if not ADDRESS.fullmatch(text):
        raise FieldError(
            "address",
            "An address is TCPIP::host::port::SOCKET, ASRL…::INSTR or USB::…::INSTR; "
            f"“{text[:60]}” is none.",
        )
    return text


def read(address: str, instrument: Instrument, key: str, manager: Any = None) -> Taken:
    """One figure. Raises NoFigure with the reason in a sentence: nobody there, another instrument,
    no answer in time, no figure in the answer, connection lost.
    """
    function = instrument.function(key)
    return read_all(address, instrument, [function.key], manager)[0]


def read_all(
    address: str, instrument: Instrument, keys: list[str], manager: Any = None
) -> list[Taken]:
    """Several figures of one instrument, one after the other: all of them, or none."""
    functions = [instrument.function(key) for key in keys]
    with closing(_opened(checked_address(address), instrument, manager)) as session:
        named = _ask(session, "*IDN?")
        if not re.search(instrument.known_by, named, re.I):
            raise NoFigure(
                "address", f"“{named[:60]}” answers there: that is no {instrument.title}."
            )
        return [_one(session, f, named) for f in functions]


def _opened(address: str, instrument: Instrument, manager: Any) -> Any:
    """A session, or the reason why there is none."""
    try:
        owner = manager if manager is not None else pyvisa.ResourceManager("@py")
        session: Any = owner.open_resource(address)
    except (pyvisa.Error, OSError, ValueError) as error:
        raise NoFigure("address", NOBODY) from error
    session.timeout = 1e3 * instrument.seconds
    session.read_termination = session.write_termination = "\n"
    return session


def _one(session: Any, function: Function, named: str) -> Taken:
    """Set, read, and look at what came."""
    if function.configure:
        _send(session, function.configure)
    answer = _ask(session, function.read)
    if len(answer) > LONGEST_ANSWER or not FIGURE.fullmatch(answer):
        raise NoFigure("answer", f"“{answer[:40]}” is no figure: nothing is taken of it.")
    value = float(answer)
    over = abs(value) >= OVER
    if not over and abs(value) > function.most * BEYOND:
        raise NoFigure("answer", f"{answer} is beyond anything {function.title} can be.")
    return Taken(
        text=answer,
        value=value,
        unit=function.unit,
        over=over,
        percent=function.percent,
        named=named,
    )


BEYOND = 1.2
"""A range shows a fifth more than its end."""


def _send(session: Any, command: str) -> None:
    try:
        session.write(command)
    except (pyvisa.Error, OSError) as error:
        raise NoFigure("address", "The connection was lost; nothing was taken.") from error


def _ask(session: Any, query: str) -> str:
    """A query and its answer, or the reason why there is none."""
    try:
        session.write(query)
        return str(session.read()).strip()
    except pyvisa.VisaIOError as error:
        late = error.error_code == pyvisa.constants.StatusCode.error_timeout
        said = "No answer in time" if late else "The connection was lost"
        with suppress(pyvisa.Error, OSError):
            session.close()
        raise NoFigure("answer", f"{said}; nothing was taken.") from error
    except ConnectionRefusedError as error:
        raise NoFigure("address", NOBODY) from error
    except (pyvisa.Error, OSError) as error:
        raise NoFigure("answer", "The connection was lost; nothing was taken.") from error
    except UnicodeDecodeError as error:
        raise NoFigure("answer", "What came was no text; nothing was taken.") from error
