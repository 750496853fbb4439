"""Stand-ins for real instruments on this machine: SCPI over TCP, with latency, and faults asked
for: beyond the range, garbage, silence, a connection that drops. They behave as their class does.
"""

import contextlib
import socketserver
import threading
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from greyfell.instruments.declared import OVER, Instrument

UNASKED_BY = ("stale", "chatty")
"""Faults whose device talks before it was asked."""
FAULTS = (
    *("none", "over", "garbage", "silence", "drop", "late", "other", "greeting"),
    *UNASKED_BY,
)
GARBAGE = "+1.2.3E\x07??"
UNASKED = "+9.999000E+00"
GREETING = "root shell of a machine; password:"
LATENCY, LATE = 0.03, 8.0
Values = Mapping[str, Callable[[], float]]


@dataclass
class Device:
    """What stands in: its class, where each figure comes from, the fault it has now, seconds it
    takes; what it was sent.
    """

    instrument: Instrument
    values: Values
    fault: str = "none"
    latency: float = LATENCY
    heard: list[str] = field(default_factory=list)
    chosen: str = ""

    @property
    def name(self) -> str:
        """What it calls itself."""
        kind = "TOASTER" if self.fault == "other" else self.instrument.key.upper()
        return f"GREYFELL,STAND-IN {kind},0,1"

    def answer(self, command: str) -> str | None:
        """What it says to a command; None where it says nothing."""
        self.heard.append(command)
        if command == "*IDN?":
            return GREETING if self.fault == "greeting" else self.name
        for f in self.instrument.functions.values():
            if f.configure and command == f.configure:
                self.chosen = f.key
                return None
            if command == f.read and (not f.configure or f.key == self.chosen):
                return self._figure(f.key, f.most)
        return None if not command.endswith("?") else '-113,"Undefined header"'

    def _figure(self, key: str, most: float) -> str | None:
        if self.fault == "garbage":
            return GARBAGE
        if self.fault == "silence":
            return None
        value = self.values[key]()
        if self.fault == "over" or abs(value) > most:
            return f"{OVER:+.6E}"
        return f"{value:+.6E}"


class _Talk(socketserver.StreamRequestHandler):
    """One connection: lines in, lines out."""

    server: "StandIn"

    def handle(self) -> None:
        device = self.server.device
        if device.fault in UNASKED_BY:
            self._say(UNASKED)
        for raw in self.rfile:
            command = raw.decode("ascii", "replace").strip()
            if device.fault == "drop" and command != "*IDN?":
                return
            time.sleep(LATE if device.fault == "late" and "?" in command else device.latency)
            said = device.answer(command)
            if device.fault == "chatty" and command == "READ?":
                self._say(UNASKED)
            if said is not None:
                self._say(said)

    def _say(self, line: str) -> None:
        with contextlib.suppress(OSError):
            self.wfile.write(f"{line}\n".encode())


HEEDS = 0.02
"""Seconds within which it heeds that it shall end."""


class StandIn(socketserver.ThreadingTCPServer):
    """A stand-in that listens on this machine alone."""

    allow_reuse_address = True
    daemon_threads = True
    block_on_close = False

    def __init__(self, device: Device, port: int = 0) -> None:
        super().__init__(("127.0.0.1", port), _Talk)
        self.device = device

    @property
    def address(self) -> str:
        """As it is typed."""
        return f"TCPIP::127.0.0.1::{self.server_address[1]}::SOCKET"

    def start(self) -> "StandIn":
        """Listen in a thread of its own."""
        threading.Thread(target=self.serve_forever, args=(HEEDS,), daemon=True).start()
        return self

    def __enter__(self) -> "StandIn":
        return self.start()

    def __exit__(self, *_: object) -> None:
        self.shutdown()
        self.server_close()
