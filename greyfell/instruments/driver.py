"""Reading one figure of one instrument: connected, known by its name, set, read, and let go again.

A figure comes back exactly as the instrument sent it, or a sentence why there is none. After any
trouble the connection is dropped, so that a late answer is never taken for the next one. What lay
on the line is drained before the first question, and after each figure the instrument says its name
again: what it sent unasked would stand between them, and is never a figure.
"""

import re
from contextlib import closing, suppress
from decimal import Decimal
from typing import Any

import pyvisa
from msgspec import Struct

from greyfell.core.errors import FieldError
from greyfell.instruments.declared import OVER, Function, Instrument
from greyfell.instruments.reach import checked_address, reached

FIGURE = re.compile(r"[+-]?\d+(?:\.\d*)?(?:[eE][+-]?\d+)?|[+-]?\.\d+(?:[eE][+-]?\d+)?")
NAME = re.compile(r"[\w .()/&+:\-]{1,40}(?:,[\w .()/&+:\-]{0,40}){3}", re.ASCII)
"""An identification: maker, model, serial number, firmware. IEEE 488.2 section 10.14."""
LONGEST_ANSWER = 256
QUIET = 0.05
"""Seconds without a letter after which a line is taken to be drained. House rule."""
MOST_STALE = 64
"""A line that still talks after so many letters and lines is not waited for."""
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


def read(
    address: str, instrument: Instrument, key: str, manager: Any = None, *, here: bool = True
) -> Taken:
    """One figure; `here` says whether it is asked for at this machine. Raises NoFigure with the
    reason in a sentence: nobody there, another instrument, no answer in time, no figure in the
    answer, connection lost; FieldError for an address that is never asked.
    """
    function = instrument.function(key)
    return read_all(address, instrument, [function.key], manager, here=here)[0]


def read_all(
    address: str,
    instrument: Instrument,
    keys: list[str],
    manager: Any = None,
    *,
    here: bool = True,
) -> list[Taken]:
    """Several figures of one instrument, one after the other: all of them, or none."""
    functions = [instrument.function(key) for key in keys]
    asked = checked_address(address) if manager is not None else reached(address, here=here)
    with closing(_opened(asked, instrument, manager)) as session:
        _drained(session)
        named = _ask(session, "*IDN?")
        if not NAME.fullmatch(named):
            raise NoFigure("address", "What answers there does not say its name as a meter does.")
        if not re.search(instrument.known_by, named, re.I):
            raise NoFigure(
                "address", f"“{named[:60]}” answers there: that is no {instrument.title}."
            )
        return [_one(session, f, named) for f in functions]


def _opened(address: str, instrument: Instrument, manager: Any) -> Any:
    """A session, or the reason why there is none."""
    try:
        owner = manager if manager is not None else pyvisa.ResourceManager("@py")
        session: Any = owner.open_resource(address, open_timeout=int(1e3 * instrument.seconds))
    except Exception as error:  # pyvisa-py raises bare ones for what it cannot reach
        raise NoFigure("address", NOBODY) from error
    session.timeout = 1e3 * instrument.seconds
    session.read_termination = session.write_termination = "\n"
    return session


def _drained(session: Any) -> None:
    """Read away what lay on the line before anybody asked. Raises NoFigure where it never ends."""
    patience, session.timeout = session.timeout, 1e3 * QUIET
    try:
        for _ in range(MOST_STALE):
            session.read_raw()
        raise NoFigure("answer", f"The instrument {UNASKED}")
    except pyvisa.VisaIOError as error:
        if error.error_code != pyvisa.constants.StatusCode.error_timeout:
            raise NoFigure("address", NOBODY) from error
    except (pyvisa.Error, OSError) as error:
        raise NoFigure("address", NOBODY) from error
    finally:
        session.timeout = patience


UNASKED = "sends lines that nobody asked for: switch that off; nothing was taken."


def _one(session: Any, function: Function, named: str) -> Taken:
    """Set, read, and look at what came."""
    if function.configure:
        _send(session, function.configure)
    answer = _ask(session, function.read)
    if _ask(session, "*IDN?") != named:
        raise NoFigure("answer", f"The instrument {UNASKED}")
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
