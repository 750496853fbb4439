"""Addresses of instruments: which kinds are opened, and which hosts are never asked.

A host's name is looked up once and the number that came is what is opened, so that no second answer
can lead elsewhere. A machine's own metadata service is no instrument.
"""

import ipaddress
import re
import socket

from greyfell.core.errors import FieldError, within

SOCKET = re.compile(r"TCPIP(\d*)::([A-Za-z0-9.\-]{1,253})::(\d{1,5})::SOCKET")
ADDRESS = re.compile(
    rf"{SOCKET.pattern}"
    r"|ASRL(?:\d{1,3}|COM\d{1,3}|/dev/(?:tty|cu|serial/by-id/|serial/by-path/)"
    r"[A-Za-z0-9._:\-]{1,80})::INSTR"
    r"|USB\d*::0x[0-9A-Fa-f]{4}::0x[0-9A-Fa-f]{4}::[A-Za-z0-9_.\-]{1,64}(?:::\d{1,3})?::INSTR"
)
"""Addresses that are opened: a socket, a serial line, a USB instrument."""
MOST_PORT = 65_535
"""The highest port. RFC 9293 section 3.1: sixteen bits."""
METADATA = frozenset({"169.254.169.254", "169.254.170.2", "100.100.100.200", "168.63.129.16"})
"""Where rented machines hand out their keys: never asked. Common practice."""
HERE_ONLY = "A link-local address is asked for at this machine only, not from another."


def checked_address(text: str, *, here: bool = True) -> str:
    """An address of a kind that is opened; a host given as a number must be one that is asked.
    Raises FieldError.
    """
    if not ADDRESS.fullmatch(text):
        raise FieldError(
            "address",
            "An address is TCPIP::host::port::SOCKET, ASRL…::INSTR or USB::…::INSTR; "
            f"“{text[:60]}” is none.",
        )
    found = SOCKET.fullmatch(text)
    if found:
        within("address.port", int(found[3]), at_least=1, at_most=MOST_PORT)
        if _is_number(found[2]):
            _looked_up(found[2], here=here)
    return text


def reached(text: str, *, here: bool) -> str:
    """An address as it is opened: the name of its host looked up once, and allowed. `here` says
    whether it is asked for at this machine. Raises FieldError.

    >>> reached("TCPIP::127.0.0.1::5025::SOCKET", here=False)
    'TCPIP::127.0.0.1::5025::SOCKET'
    """
    found = SOCKET.fullmatch(checked_address(text, here=here))
    if not found:
        return text
    board, name, port = found.groups()
    return f"TCPIP{board}::{_looked_up(name, here=here)}::{port}::SOCKET"


def _is_number(host: str) -> bool:
    """Whether a host is given as a number, in whichever form: 169.254.1.2, 2851995906, 0xA9FE0102;
    no name is looked up for it.
    """
    try:
        socket.inet_aton(host)
    except OSError:
        return False
    return True


def _looked_up(name: str, *, here: bool) -> str:
    """A host's number. Raises FieldError where the name is unknown or the number is barred."""
    try:
        answers = socket.getaddrinfo(name, None, socket.AF_INET, socket.SOCK_STREAM)
    except (OSError, UnicodeError) as error:
        raise FieldError(
            "address", f"The name “{name[:60]}” is not known on this network."
        ) from error
    number = str(answers[0][4][0])
    host = ipaddress.ip_address(number)
    if number in METADATA or host.is_multicast or host.is_unspecified or host.is_reserved:
        raise FieldError("address", f"{number} is no instrument's address; it is never asked.")
    if host.is_link_local and not here:
        raise FieldError("address", HERE_ONLY)
    return number
