"""The command line: demo, serve, identify, plan, import, export."""

import gc
import importlib
import json
import os
import sys
import threading
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from greyfell import __version__
from greyfell.core.errors import FieldError

if TYPE_CHECKING:
    from greyfell.core.evidence.record import Transformer
    from greyfell.core.planners.declare import Planner

# What only one command needs is imported inside it: the others start without. See docs/house.md.

LOCAL = ("127.0.0.1", "localhost", "::1")


def data_folder(data: Path | None, demo: bool = False) -> Path:
    """Where the data lives: --data, or the platform's user data folder; the demo has one of its
    own.
    """
    if data is not None:
        return data
    from platformdirs import user_data_dir

    return Path(user_data_dir("greyfell-demo" if demo else "greyfell", appauthor=False))


@click.group(context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, prog_name="greyfell")
def main() -> None:
    """Greyfell: what a salvaged transformer is, whether it is sound, and the next safe step."""


def _serving(command: Callable[..., None]) -> Callable[..., None]:
    for option in (
        click.option("--port", default=8730, show_default=True, type=click.IntRange(1, 65535)),
        click.option(
            "--host",
            default="127.0.0.1",
            show_default=True,
            help="Address to bind to; another than this machine's own needs a passphrase.",
        ),
        click.option(
            "--data",
            type=click.Path(path_type=Path, file_okay=False),
            default=None,
            help="Data folder.",
        ),
        click.option("--no-browser", is_flag=True, help="Do not open a browser."),
    ):
        command = option(command)
    return command


@main.command()
@_serving
def demo(port: int, host: str, data: Path | None, no_browser: bool) -> None:
    """Open the program with the demo pieces, in a data folder of their own."""
    _serve(port, host, data_folder(data, demo=True), no_browser, demo=True)


@main.command()
@_serving
def serve(port: int, host: str, data: Path | None, no_browser: bool) -> None:
    """Open the program with your own pieces."""
    _serve(port, host, data_folder(data), no_browser, demo=False)


def _serve(port: int, host: str, folder: Path, no_browser: bool, *, demo: bool) -> None:
    passphrase = os.environ.get("GREYFELL_PASSPHRASE", "")
    if host not in LOCAL and len(passphrase) < 8:
        raise click.UsageError(
            f"Binding to {host} opens the program to others: set GREYFELL_PASSPHRASE to at "
            "least 8 characters first, or leave --host out."
        )
    import webbrowser

    from waitress import create_server

    from greyfell.web.addresses import load
    from greyfell.web.app import create_app

    hosts = list(LOCAL) if host in LOCAL else [*LOCAL, host]
    app = create_app(
        folder, demo=demo, hosts=hosts, passphrase=passphrase if host not in LOCAL else None
    )
    if demo:
        from greyfell.records.demo import load_demo
        from greyfell.records.repository import Repository

        load_demo(Repository(app.extensions["store"]))
    try:
        server = create_server(
            app,
            host=host,
            port=port,
            threads=4,
            max_request_body_size=app.config["MAX_CONTENT_LENGTH"],
            ident="greyfell",
        )
    except OSError as error:
        raise click.ClickException(
            f"Port {port} cannot be used: {error.strerror or error}. Give another with --port."
        ) from None
    address = f"http://{'127.0.0.1' if host in LOCAL else host}:{port}/"
    click.echo(f"Greyfell at {address}  (data in {folder}; Ctrl-C ends it)")
    threading.Thread(target=load, args=[app], daemon=True).start()  # while the browser opens
    if not no_browser:
        threading.Timer(0.4, webbrowser.open, [address]).start()
    try:
        server.run()
    except KeyboardInterrupt:
        click.echo("Closed. Everything entered is kept.")


@main.command()
@click.argument("files", nargs=-1, required=True, type=click.Path(path_type=Path))
@click.option(
    "--lines", is_flag=True, help="One JSON document per line, in the order of the files."
)
@click.option("--next", "with_next", is_flag=True, help="Work the next step out too.")
def identify(files: tuple[Path, ...], lines: bool, with_next: bool) -> None:
    """Say what each record's piece is."""
    failed = False
    _ready()
    for path in files:
        try:
            out = _identify(path, with_next)
        except FieldError as error:
            failed = True
            out = {"file": str(path), "error": error.sentence, "field": error.field}
        click.echo(json.dumps(out, ensure_ascii=False, indent=None if lines else 1))
    if failed:
        sys.exit(1)


def _ready() -> None:
    """The engine, imported without the collector looking through what is made for good."""
    gc.disable()
    importlib.import_module("greyfell.core.identify")
    gc.freeze()
    gc.enable()


def _identify(path: Path, with_next: bool) -> dict[str, Any]:
    from greyfell.core.identify import answer
    from greyfell.core.identify import identify as conclude

    ident = conclude(_record(path))
    out = answer(ident)
    if with_next:
        from greyfell.core.guidance.next_step import next_steps

        out["next"] = next_steps(ident)[0].as_json()
    return out


def _read(path: Path) -> bytes:
    try:
        with path.open("rb") as file:
            return file.read(4 * 1024 * 1024 + 1)
    except OSError as error:
        raise FieldError("file", f"{path} cannot be read: {error.strerror}.") from None


def _document(path: Path) -> Any:
    """What a file of JSON holds."""
    from greyfell.core.evidence.parse import load_json

    return load_json(_read(path), path.name)


def _record(path: Path) -> "Transformer":
    """The record a file holds."""
    from greyfell.core.evidence.parse import parse_record

    return parse_record(_document(path))


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.argument("question", nargs=-1, required=True)
@click.option("--json", "as_document", is_flag=True, help="Print JSON.")
def why(file: Path, question: tuple[str, ...], as_document: bool) -> None:
    """Say why: `why FILE winding W3 volts`, also role or ohms; family; verdict; volts-per-turn;
    fault CODE.
    """
    from greyfell.core.guidance.why import why as explain
    from greyfell.core.identify import identify as conclude

    try:
        record = _record(file)
        found = explain(conclude(record), list(question))
    except FieldError as error:
        raise click.BadParameter(error.sentence, param_hint=error.field) from None
    if as_document:
        click.echo(json.dumps(found.as_json(), ensure_ascii=False, indent=1))
        return
    click.echo(f"{found.conclusion}: {found.figure}")
    for title, text in (
        ("formula", found.formula),
        ("with figures", found.with_figures),
        ("source", found.source),
        ("would change it", found.would_change),
    ):
        if text:
            click.echo(f"  {title}: {text}")
    for what, said in found.evidence:
        click.echo(f"  {what}: {said}")


@main.command()
@click.argument("name", required=False)
@click.argument("file", required=False, type=click.Path(path_type=Path))
@click.option("--list", "listing", is_flag=True, help="List the planners.")
@click.option("--example", is_flag=True, help="Print a valid example input.")
@click.option("--schema", is_flag=True, help="Print the JSON Schemas of input and result.")
@click.option("--from", "piece", help="Start from a piece: a record's file, or a tag.")
@click.option("--data", type=click.Path(path_type=Path, file_okay=False), default=None)
def plan(
    name: str | None,
    file: Path | None,
    listing: bool,
    example: bool,
    schema: bool,
    piece: str | None,
    data: Path | None,
) -> None:
    """Work a plan out: JSON in, JSON out, SI units.

    With --from what is known of the piece fills the input, and FILE says the rest.
    """
    from greyfell.core.planners.registry import PLANNERS, planner_of

    if listing or name is None:
        for p in PLANNERS.values():
            click.echo(f"{p.name:12} {p.purpose}")
        return
    try:
        planner = planner_of(name)
        if example:
            _print(planner.example)
        elif schema:
            _print(planner.schema())
        else:
            _print(_planned(planner, file, piece, data))
    except FieldError as error:
        hint = error.field.upper() if error.field == "name" else error.field
        raise click.BadParameter(error.sentence, param_hint=hint) from None


def _print(document: Any) -> None:
    click.echo(json.dumps(document, ensure_ascii=False, indent=1))


def _planned(
    planner: "Planner", file: Path | None, piece: str | None, data: Path | None
) -> dict[str, Any]:
    """The answer of a planner to a file, a piece, or both. Raises FieldError."""
    from greyfell.core.evidence.parse import parse_record
    from greyfell.core.identify import identify as conclude
    from greyfell.core.planners.asking import Known, nested

    if file is None and piece is None:
        raise FieldError("file", "Give a JSON file, --from PIECE, --example or --schema.")
    told = _document(file) if file is not None else {}
    if piece is None:
        return planner(told)
    known = Known(conclude(parse_record(_piece(piece, data))))
    if not isinstance(told, dict):
        raise FieldError("file", "A planner's input is one JSON object.")
    return planner({**nested(planner.start(known)), **told}, known)


def _piece(name: str, data: Path | None) -> Any:
    """A piece's document: from a file where there is one of that name, else from the shelf."""
    path = Path(name)
    if path.is_file():
        return _document(path)
    return _repository(data).document(name)


@main.command("import")
@click.argument("files", nargs=-1, required=True, type=click.Path(path_type=Path))
@click.option(
    "--data", type=click.Path(path_type=Path, file_okay=False), default=None, help="Data folder."
)
@click.option("--merge", is_flag=True, help="Append new readings where a piece is here already.")
def bring(files: tuple[Path, ...], data: Path | None, merge: bool) -> None:
    """Bring records in. Nothing is ever overwritten."""
    repository = _repository(data)
    failed = False
    for path in files:
        try:
            tag, outcome = repository.bring_in(_document(path), merge=merge)
        except FieldError as error:
            failed = True
            click.echo(f"{path}: {error.sentence}", err=True)
            continue
        words = {
            "added": "added",
            "merged": "new readings appended",
            "same": "here already, nothing new",
            "ask": "here already; --merge appends what is new",
        }
        click.echo(f"{tag}: {words[outcome]}")
    if failed:
        sys.exit(1)


@main.command("export")
@click.argument("tags", nargs=-1, required=True)
@click.option(
    "--data", type=click.Path(path_type=Path, file_okay=False), default=None, help="Data folder."
)
@click.option(
    "--to",
    "folder",
    type=click.Path(path_type=Path, file_okay=False),
    default=None,
    help="Write TAG.json files there instead of printing.",
)
def export(tags: tuple[str, ...], data: Path | None, folder: Path | None) -> None:
    """Write records out as JSON."""
    repository = _repository(data)
    for tag in tags:
        try:
            document = repository.document(tag)
        except FieldError as error:
            raise click.BadParameter(error.sentence, param_hint="TAG") from None
        text = json.dumps(document, ensure_ascii=False, indent=1)
        if folder is None:
            click.echo(text)
        else:
            folder.mkdir(parents=True, exist_ok=True)
            (folder / f"{document['tag']}.json").write_text(text + "\n", encoding="utf-8")


def _repository(data: Path | None) -> Any:
    from greyfell.records.repository import Repository
    from greyfell.records.store import Store

    return Repository(Store(data_folder(data)))


if __name__ == "__main__":
    main()
