"""Running the program: one server on a data folder, its address told."""

import logging
import socket
import threading
import webbrowser
from collections.abc import Sequence
from contextlib import ExitStack, suppress
from pathlib import Path
from typing import Any

import click
from flask import Flask
from waitress import create_server
from waitress.channel import HTTPChannel
from waitress.task import ErrorTask

from greyfell.records.opened import opened
from greyfell.records.trouble import Trouble
from greyfell.web.access import HEADERS, LONGEST
from greyfell.web.addresses import load
from greyfell.web.app import READ_BYTES, create_app

THREADS = 8
CONNECTIONS, IDLE = 900, 20
"""So many may be connected, and so many seconds say nothing: a hundred idle ones stop nobody."""
EVERYWHERE = ("0.0.0.0", "::")


def serve(
    folder: Path,
    *,
    host: str,
    port: int,
    names: Sequence[str],
    no_browser: bool,
    demo: bool,
    passphrase: str | None,
) -> None:
    """Open the program on a data folder and answer until it is ended. Raises Trouble, and click's
    own error where the address cannot be used.
    """
    logging.basicConfig(format="%(asctime)s %(message)s", level=logging.WARNING)
    logging.getLogger("waitress").setLevel(logging.ERROR)
    address = addressed(host, port)
    if passphrase is not None and len(passphrase) > LONGEST:
        raise click.UsageError(f"A passphrase has {LONGEST} letters at most.")
    with ExitStack() as until:
        try:
            elsewhere = until.enter_context(opened(folder, address))
        except OSError as error:
            raise Trouble(
                f"The data folder {folder} cannot be used: {error.strerror or error}.",
                "Say which other: --data FOLDER.",
            ) from error
        if elsewhere:
            click.echo(f"Greyfell is open on {folder} already, at {elsewhere}")
            if not no_browser:
                webbrowser.open(elsewhere)
            return
        asked_by = [*names, *([] if passphrase is None else [socket.gethostname(), host])]
        app = create_app(
            folder,
            demo=demo,
            names=asked_by,
            numeric=passphrase is not None,
            passphrase=passphrase,
            backed=True,
        )
        if demo:
            _demo(app)
        server = _server(app, host, port)
        click.echo(f"Greyfell at {address}  (data in {folder}; Ctrl-C ends it)")
        if passphrase is not None:
            for other in _reached_at(host, port):
                click.echo(f"  from other machines: {other}")
            click.echo("  This is plain http: passphrase and readings can be read on the network.")
        threading.Thread(target=load, args=[app], daemon=True).start()  # while the browser opens
        if not no_browser:
            threading.Timer(0.4, webbrowser.open, [address]).start()
        with suppress(KeyboardInterrupt):
            server.run()
        server.close()
        click.echo("Closed. Everything entered is kept.")


def _demo(app: Flask) -> None:
    """Bring the demo pieces in."""
    from greyfell.records.demo import load_demo
    from greyfell.records.repository import Repository

    load_demo(Repository(app.extensions["store"]))


class _OwnError(ErrorTask):  # type: ignore[misc]
    """What the server itself answers, before the program is asked: with the headers of all else."""

    def execute(self) -> None:
        """The same, with them."""
        self.response_headers.extend([*HEADERS.items(), ("Cache-Control", "no-store")])
        super().execute()


class _Channel(HTTPChannel):  # type: ignore[misc]
    """A connection whose errors carry them."""

    error_task_class = _OwnError


def _server(app: Flask, host: str, port: int) -> Any:
    """The server, bound to its address. Raises click's error where it cannot be."""
    try:
        made = create_server(
            app,
            host=host,
            port=port,
            threads=THREADS,
            max_request_body_size=READ_BYTES,
            connection_limit=CONNECTIONS,
            channel_timeout=IDLE,
            cleanup_interval=IDLE // 2,
            asyncore_use_poll=True,
            ident="greyfell",
        )
        for one in (made, *getattr(made, "map", {}).values()):
            if hasattr(one, "channel_class"):
                one.channel_class = _Channel
        return made
    except (OSError, UnicodeError, ValueError) as error:
        said = str(getattr(error, "strerror", None) or error).rstrip(".")
        raise click.ClickException(
            f"{host}, port {port} cannot be used: {said}. Give another with --host or --port."
        ) from None


def addressed(host: str, port: int) -> str:
    """Where a browser on this machine asks."""
    here = "127.0.0.1" if host in ("localhost", "0.0.0.0") else host
    here = "::1" if here == "::" else here
    return f"http://[{here}]:{port}/" if ":" in here else f"http://{here}:{port}/"


def _reached_at(host: str, port: int) -> list[str]:
    """Where other machines ask."""
    if host not in EVERYWHERE:
        return [addressed(host, port)]
    try:
        found = socket.getaddrinfo(socket.gethostname(), port, type=socket.SOCK_STREAM)
    except OSError:
        return []
    numbers = dict.fromkeys(str(info[4][0]) for info in found)
    return [addressed(n, port) for n in numbers if not n.startswith(("127.", "::1", "fe80"))]
