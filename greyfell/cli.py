"""The command line: demo, serve, identify, why, plan, and all that keeps a shelf.

Exit status: 0 done; 1 some file was refused, the others were done; 2 asked wrongly; 3 the data
folder or the output cannot be used; 70 a fault of Greyfell's own; 130 ended by Ctrl-C. Nothing ends
in a traceback, unless GREYFELL_TRACE is set.
"""

import gc
import importlib
import json
import os
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import TYPE_CHECKING, Any, BinaryIO, NoReturn

import click

from greyfell import __version__, clock
from greyfell.core.errors import TOO_FAR, FieldError

if TYPE_CHECKING:
    from greyfell.core.evidence.record import Transformer
    from greyfell.core.planner_kit.declare import Planner
    from greyfell.records.repository import Repository

# What only one command needs is imported inside it: the others start without. See docs/house.md.

LOCAL = ("127.0.0.1", "localhost", "::1")
REFUSED, UNUSABLE, OURS, STOPPED = 1, 3, 70, 130
"""Exit status where it is not 0 or, for what was asked wrongly, click's own 2."""


class Told(click.Group):
    """Commands whose every failure is a sentence."""

    def main(self, *args: Any, **extra: Any) -> Any:
        """Run a command; end with its exit status."""
        for stream in (sys.stdout, sys.stderr):
            reconfigure = getattr(stream, "reconfigure", None)
            if reconfigure is not None:
                reconfigure(errors="backslashreplace")
        if os.environ.get("GREYFELL_TRACE") or not extra.get("standalone_mode", True):
            return super().main(*args, **extra)
        try:
            return super().main(*args, **extra)
        except BrokenPipeError:
            _silence()
            sys.exit(0)
        except (OSError, UnicodeError) as error:
            _end(f"Not all of it could be written or read: {error}.", UNUSABLE)
        except KeyboardInterrupt:
            _end("Ended.", STOPPED)
        except Exception as error:
            _end(*_told(error))


def _told(error: Exception) -> tuple[str, int]:
    """What an error is told as, and the exit status."""
    if isinstance(error, FieldError):
        return error.sentence, 2
    if isinstance(error, ArithmeticError):
        return TOO_FAR, 2
    trouble = sys.modules.get("greyfell.records.trouble")
    if trouble is not None and isinstance(error, trouble.Trouble):
        return str(error), UNUSABLE
    return (
        f"Greyfell itself failed ({type(error).__name__}: {error}). Nothing half-done was stored. "
        "GREYFELL_TRACE=1 shows where.",
        OURS,
    )


def _end(sentence: str, status: int) -> NoReturn:
    """Say a sentence and end."""
    try:
        sys.stderr.write(f"{sentence}\n")
        sys.stdout.flush()
    except OSError:
        pass
    _silence()
    sys.exit(status)


def _silence() -> None:
    """Nothing more is written: what is left in the buffers has nowhere to go."""
    with suppress(OSError, ValueError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def data_folder(data: Path | None, demo: bool = False) -> Path:
    """Where the data lives: --data, or the platform's user data folder; the demo has one of its
    own.
    """
    if data is not None:
        return data
    from platformdirs import user_data_dir

    return Path(user_data_dir("greyfell-demo" if demo else "greyfell", appauthor=False))


@click.group(cls=Told, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, prog_name="greyfell")
def main() -> None:
    """Greyfell: what a salvaged transformer is, whether it is sound, and the next safe step."""


DATA = click.option(
    "--data",
    type=click.Path(path_type=Path),
    default=None,
    help="Data folder; the platform's own unless given.",
)


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
            "--name",
            "names",
            multiple=True,
            help="A name it may be asked by, such as bench.local; numeric addresses always may.",
        ),
        DATA,
        click.option("--no-browser", is_flag=True, help="Do not open a browser."),
    ):
        command = option(command)
    return command


@main.command()
@_serving
def demo(**asked: Any) -> None:
    """Open the program with the demo pieces, in a data folder of their own."""
    _serve(data_folder(asked.pop("data"), demo=True), demo=True, **asked)


@main.command()
@_serving
def serve(**asked: Any) -> None:
    """Open the program with your own pieces."""
    _serve(data_folder(asked.pop("data")), demo=False, **asked)


def _serve(folder: Path, **asked: Any) -> None:
    passphrase = os.environ.get("GREYFELL_PASSPHRASE", "")
    if asked["host"] not in LOCAL and len(passphrase) < 8:
        raise click.UsageError(
            f"Binding to {asked['host']} opens the program to others: set GREYFELL_PASSPHRASE to "
            "at least 8 characters first, or leave --host out."
        )
    from greyfell.web.serving import serve as run

    run(folder, passphrase=passphrase if asked["host"] not in LOCAL else None, **asked)


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
        sys.exit(REFUSED)


def _ready() -> None:
    """The engine and the record's checks, made without the collector looking through what is made
    for good.
    """
    gc.disable()
    importlib.import_module("greyfell.core.identify")
    importlib.import_module("greyfell.core.evidence.record").Transformer.model_rebuild()
    gc.freeze()
    gc.enable()


def _identify(path: Path, with_next: bool) -> dict[str, Any]:
    from greyfell.core.identify import answer
    from greyfell.core.identify import identify as conclude

    ident = conclude(_record(path), now=clock.moment())
    out = answer(ident)
    if with_next:
        from greyfell.core.steps.next_step import next_json

        out["next"] = next_json(ident)
    return out


RECORD_BYTES = 4 * 1024 * 1024
PASSPORT_BYTES = 256 * 1024 * 1024
"""So much of a file is read at most: of a record, and of a passport with its photos."""


def _read(path: Path, most: int = RECORD_BYTES) -> bytes:
    try:
        with path.open("rb") as file:
            return file.read(most + 1)
    except OSError as error:
        raise FieldError("file", f"{path} cannot be read: {error.strerror}.") from None


def _document(path: Path) -> Any:
    """What a file of JSON holds."""
    from greyfell.core.evidence.loading import load_json

    return load_json(_read(path), path.name)


def _record(path: Path) -> "Transformer":
    """The record a file holds."""
    from greyfell.core.evidence.parse import parse_record

    return parse_record(_document(path))


@main.command()
@click.argument("one", type=click.Path(path_type=Path))
@click.argument("two", type=click.Path(path_type=Path))
def sisters(one: Path, two: Path) -> None:
    """Say what differs between two records of the same make, as JSON."""
    from greyfell.core.identify import identify as conclude
    from greyfell.core.judgement.sisters import compare

    try:
        first, second = (conclude(_record(path)) for path in (one, two))
    except FieldError as error:
        raise click.BadParameter(error.sentence, param_hint=error.field) from None
    found = [d.as_json() for d in compare(first, second)]
    click.echo(json.dumps(found, ensure_ascii=False, indent=1))


@main.command("setup")
@click.argument("file", type=click.Path(path_type=Path))
@click.option(
    "--bench",
    type=click.Path(path_type=Path),
    default=None,
    help="A greyfell.setup/1 to look at instead of the record's own.",
)
def set_up(file: Path, bench: Path | None) -> None:
    """Say what is wrong or missing between the wall and a record's piece, as JSON."""
    from greyfell.core.bench.kept_setup import standing_setup
    from greyfell.core.identify import identify as conclude

    try:
        record = _record(file)
        if bench is not None:
            record = record.model_copy(update={"setup": _document(bench)})
        found = standing_setup(conclude(record, now=clock.moment()))
    except FieldError as error:
        raise click.BadParameter(error.sentence, param_hint=error.field) from None
    if found is None:
        raise click.BadParameter("The record keeps no set-up; give one with --bench.")
    click.echo(json.dumps(found.as_json(), ensure_ascii=False, indent=1))


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--failures", is_flag=True, help="Solve every single failure too.")
@click.option("--netlist", is_flag=True, help="Print the rig as a netlist instead.")
def rig(file: Path, failures: bool, netlist: bool) -> None:
    """Solve a rig (greyfell.rig/1): what stands at every joint, what it says, what fails; JSON."""
    from greyfell.core.chain.elements import parse_rig
    from greyfell.core.chain.failing import failed
    from greyfell.core.chain.refusing import refuse
    from greyfell.core.chain.solving import exported, solve
    from greyfell.core.dangers.of_row import as_warning, spoken

    try:
        made = parse_rig(_document(file))
        refuse(made)
        if netlist:
            click.echo(exported(made), nl=False)
            return
        found = solve(made)
        said = [as_warning(danger) for danger in spoken(found)]
        out: dict[str, Any] = {"by": found.by, "joints": [a.as_json() for a in found.joints]}
        out["warnings"] = said
        if any(s["severity"] == "stop" for s in said):
            out["refused"] = True
        if failures:
            out["failures"] = [f.as_json() for f in failed(found)]
    except FieldError as error:
        raise click.BadParameter(error.sentence, param_hint=error.field) from None
    _print(out)


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--use", default="", help="What it is to become, by the key of a use.")
@click.option("--act", default="", help="The act that is next, such as “first power”.")
@click.option(
    "--rig", "row", type=click.Path(path_type=Path), help="A greyfell.rig/1 it stands in."
)
def dangers(file: Path, use: str, act: str, row: Path | None) -> None:
    """Say everything that can hurt at a record's piece, the nearest first, as JSON."""
    from greyfell.core.chain.elements import parse_rig
    from greyfell.core.chain.refusing import planned
    from greyfell.core.dangers.contacts import after_failures, contacts
    from greyfell.core.dangers.listing import dangers as told
    from greyfell.core.dangers.of_act import ACTS
    from greyfell.core.dangers.scene import Scene
    from greyfell.core.identify import identify as conclude
    from greyfell.core.uses.all_uses import USES, use_of

    try:
        if use and use_of(use) is None:
            raise FieldError("use", f"A use is one of: {', '.join(u.key for u in USES)}.")
        if act and act not in ACTS:
            raise FieldError("act", f"An act is one of: {', '.join(ACTS)}.")
        ident = conclude(_record(file), now=clock.moment())
        solved = None if row is None else planned(parse_rig(_document(row)))
    except FieldError as error:
        raise click.BadParameter(error.sentence, param_hint=error.field) from None
    wanted = use_of(use)
    plan = None if wanted is None else wanted.plan()
    scene = Scene(ident=ident, row=solved, plan=plan, act=act)
    found: dict[str, list[Any]] = {
        "dangers": [*told(scene)],
        "contacts": [*contacts(ident)],
        "after_failures": [*after_failures(ident)],
    }
    _print({name: [one.as_json() for one in some] for name, some in found.items()})


@main.command()
@click.option("--simulate", is_flag=True, help="Start stand-ins; Ctrl+C ends them.")
@click.option(
    "--port", type=click.IntRange(1024, 65000), default=5025, help="Of the first of them."
)
@click.option("--fault", default="none", help="What they do wrong, such as garbage or silence.")
@click.option("--read", "address", default="", help="Read one figure of an instrument.")
@click.option("--as", "speaks", default="multimeter", help="What it is.")
@click.option("--function", default="ohms", help="What is read.")
def bench(simulate: bool, port: int, fault: str, address: str, speaks: str, function: str) -> None:
    """Bench instruments: stand-ins to try with, or one figure read, as JSON. Reading only."""
    from greyfell.instruments.declared import instrument_of
    from greyfell.instruments.driver import read

    if simulate:
        _stand_in(port, fault)
        return
    try:
        if not address:
            raise FieldError("read", "Say --simulate, or --read with an address.")
        taken = read(address, instrument_of(speaks), function)
    except FieldError as error:
        raise click.BadParameter(error.sentence, param_hint=error.field) from None
    _print({"line": taken.line, "value": taken.value, "over": taken.over, "named": taken.named})


def _stand_in(port: int, fault: str) -> None:
    """Stand-ins until somebody ends them."""
    import threading

    from greyfell.instruments.bench import stand_ins
    from greyfell.instruments.standin import FAULTS

    if fault not in FAULTS:
        raise click.BadParameter(f"A fault is one of: {', '.join(FAULTS)}.", param_hint="fault")
    for there in stand_ins(port):
        there.device.fault = fault
        there.start()
        click.echo(f"{there.device.instrument.title}: {there.address}")
    click.echo("Reading only, a sample bell transformer on them; Ctrl+C ends it.")
    with suppress(KeyboardInterrupt):
        threading.Event().wait()


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.argument("question", nargs=-1, required=True)
@click.option("--json", "as_document", is_flag=True, help="Print JSON.")
def why(file: Path, question: tuple[str, ...], as_document: bool) -> None:
    """Say why: `why FILE winding W3 volts`, also role or ohms; family; verdict; volts-per-turn;
    fault CODE.
    """
    from greyfell.core.identify import identify as conclude
    from greyfell.core.telling.why import why as explain

    try:
        record = _record(file)
        found = explain(conclude(record, now=clock.moment()), list(question))
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
@DATA
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
    if file is None and piece is None:
        raise FieldError("file", "Give a JSON file, --from PIECE, --example or --schema.")
    told = _document(file) if file is not None else {}
    if isinstance(told, dict) and data is not None:
        told = {**_stocked(planner, data), **told}
    if piece is None:
        return planner(told)
    from greyfell.core.evidence.parse import parse_record
    from greyfell.core.identify import identify as conclude
    from greyfell.core.planner_kit.asking import Known, nested

    known = Known(conclude(parse_record(_piece(piece, data)), now=clock.moment()))
    if not isinstance(told, dict):
        raise FieldError("file", "A planner's input is one JSON object.")
    return planner({**nested(planner.start(known)), **told}, known)


def _stocked(planner: "Planner", data: Path) -> dict[str, Any]:
    """The stores of a data folder, for a planner that asks for them."""
    from greyfell.core.planner_kit.asking import OnHand, slots
    from greyfell.records.stores import Stores

    keys = [s.key for s in slots(planner.given) if s.kind is OnHand]
    if not keys:
        return {}
    held = [i.as_json() for i in Stores(_repository(data).store).items()]
    return dict.fromkeys(keys, held)


def _piece(name: str, data: Path | None) -> Any:
    """A piece's document: from a file where there is one of that name, else from the shelf."""
    path = Path(name)
    if path.is_file():
        return _document(path)
    return _repository(data).document(name)


@main.command("import")
@click.argument("files", nargs=-1, required=True, type=click.Path(path_type=Path))
@DATA
@click.option("--merge", is_flag=True, help="Append new readings where a piece is here already.")
def bring(files: tuple[Path, ...], data: Path | None, merge: bool) -> None:
    """Bring records, passports or archives of a whole shelf in. Nothing is ever overwritten."""
    from greyfell.records.archive import OUTCOMES, Brought, bring_text, unpacked

    repository = _repository(data)
    failed = False
    for path in files:
        try:
            if path.suffix.lower() == ".zip":
                brought = unpacked(repository, _readable(path), merge=merge, at=_progress())
            else:
                read = _read(path, PASSPORT_BYTES)
                brought = [bring_text(repository, read, name=path.name, merge=merge)]
        except FieldError as error:
            brought = [Brought(str(path), "refused", error.sentence)]
        for one in brought:
            refused = one.outcome == "refused"
            failed = failed or refused
            words = f"{one.name}: {OUTCOMES[one.outcome]} {one.sentence}".rstrip()
            if one.outcome == "ask":
                words = f"{one.name}: here already; --merge appends what is new"
            click.echo(words, err=refused)
    if failed:
        sys.exit(REFUSED)


def _readable(path: Path) -> Path:
    """A file, once it is seen that it can be read. Raises FieldError."""
    try:
        path.open("rb").close()
    except OSError as error:
        raise FieldError("file", f"{path} cannot be read: {error.strerror}.") from None
    return path


def _progress() -> Callable[[int, int], None]:
    """Tells how far an archive is worked out and how long it took, each second and at its end;
    of small ones nothing.
    """
    begun = told = time.monotonic()

    def at(done: int, of: int) -> None:
        nonlocal told
        now = time.monotonic()
        if now - told >= 1.0 or (done == of and told > begun):
            told = now
            click.echo(f"{done} of {of} worked out, {now - begun:.0f} s", err=True)

    return at


@main.command("export")
@click.argument("tags", nargs=-1)
@DATA
@click.option("--all", "everything", is_flag=True, help="The whole shelf as one archive.")
@click.option(
    "--to",
    "target",
    type=click.Path(path_type=Path),
    default=None,
    help="A folder for TAG.json files, or with --all the archive, such as shelf.zip.",
)
def export(tags: tuple[str, ...], data: Path | None, everything: bool, target: Path | None) -> None:
    """Write records out as JSON, or the whole shelf as an archive."""
    if everything == bool(tags):
        raise click.UsageError("Give tags, or --all for the whole shelf.")
    repository = _repository(data)
    if everything:
        from greyfell.records.archive import pack

        if target is None:
            raise click.UsageError("--all needs --to FILE, such as --to shelf.zip.")
        with _written(target) as file:
            count = pack(repository, file)
        click.echo(f"{count} pieces in {target}")
        return
    for tag in tags:
        document = repository.document(tag)
        text = json.dumps(document, ensure_ascii=False, indent=1)
        if target is None:
            click.echo(text)
        else:
            with _written(target / f"{document['tag']}.json") as file:
                file.write(f"{text}\n".encode())


@contextmanager
def _written(path: Path) -> Iterator[BinaryIO]:
    """A file written whole, or not at all."""
    path.parent.mkdir(parents=True, exist_ok=True)
    half = path.with_name(f"{path.name}.half")
    try:
        with half.open("wb") as file:
            yield file
        half.replace(path)
    finally:
        half.unlink(missing_ok=True)


@main.command("list")
@DATA
@click.option("--gives", default="", help="Only what gives, say, “5 A at 12 V”.")
def listing(data: Path | None, gives: str) -> None:
    """List the tags of the shelf, or the outputs that give what is asked for."""
    if not gives:
        from greyfell.records.copying import FILE
        from greyfell.records.plain import iron_tags

        tags = iron_tags(data_folder(data) / FILE)
        for tag in _repository(data).tags(practice=False) if tags is None else tags:
            click.echo(tag)
        return
    from greyfell.core.telling.outputs_of_shelf import parse_wanted

    wanted, repository, page = parse_wanted(gives), _repository(data), 1
    while True:
        answers, _ = repository.giving(wanted, page)
        for a in answers:
            click.echo(f"{a.item.tag}  {a.name}  {a.sure}  {a.figures}")
        if not answers:
            return
        page += 1


@main.command()
@DATA
@click.option("--to", type=click.Path(path_type=Path), default=None, help="Where to; a file.")
@click.option("--list", "listed", is_flag=True, help="List the backups that are kept.")
def backup(data: Path | None, to: Path | None, listed: bool) -> None:
    """Copy the data file, also while the program runs; one is kept each day by itself."""
    from greyfell.records import backup as copies
    from greyfell.records.checking import backups

    folder = data_folder(data)
    if listed:
        for path in backups(folder):
            held = copies.holds(path)
            click.echo(f"{path}  {'cannot be read' if held is None else held.words}")
        return
    click.echo(f"Backed up to {copies.backup(folder, to)}")


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
@DATA
@click.option("--yes", is_flag=True, help="Do not ask.")
def restore(file: Path, data: Path | None, yes: bool) -> None:
    """Put a backup back in place of the data file, which is kept as a backup first. What goes and
    what comes is shown, and asked for.
    """
    from greyfell.records import backup as copies
    from greyfell.records.copying import FILE
    from greyfell.records.opened import server_on

    folder = data_folder(data)
    at = server_on(folder)
    if at:
        raise click.ClickException(f"Greyfell is open on {folder} at {at}: close it first.")
    now, then = copies.holds(folder / FILE), copies.holds(file)
    if not yes and now is not None and then is not None:
        click.echo(f"Here now:    {now.words}", err=True)
        click.echo(f"The backup:  {then.words}", err=True)
        _agreed("Put the backup in its place?")
    kept = copies.restore(folder, file)
    back = copies.holds(folder / FILE)
    pieces = 0 if back is None else back.pieces
    click.echo(f"{pieces} pieces restored from {file}" + (f"; before: {kept}" if kept else ""))


def _somebody() -> bool:
    """Whether somebody sits at a terminal."""
    return sys.stdin.isatty()


def _agreed(question: str) -> None:
    """Ask, and end where the answer is no, or where nobody can be asked."""
    if not _somebody():
        _end("Nobody can be asked here: say --yes. Nothing was changed.", 2)
    if not click.confirm(question, err=True):
        _end("Nothing was changed.", REFUSED)


@main.command()
@DATA
def check(data: Path | None) -> None:
    """Look the data folder over: the file, every piece, its fingerprint."""
    from greyfell.records import checking
    from greyfell.records.trouble import Trouble

    folder = data_folder(data)
    try:
        store = _repository(data).store
    except Trouble as trouble:
        _end(f"{trouble} {_way_back(checking.newest_whole(folder))}", UNUSABLE)
    found = checking.check(store)
    for name, count in found.counts.items():
        click.echo(f"{count:7} {name}")
    if not found.wrong:
        click.echo("Nothing wrong was found.")
        return
    for wrong in found.wrong:
        click.echo(wrong, err=True)
    can = ", ".join(found.readable) or "none"
    click.echo(f"Pieces that can be read as they were stored: {can}", err=True)
    click.echo(_way_back(found.backup), err=True)
    sys.exit(REFUSED)


def _way_back(backup: Path | None) -> str:
    """Which backup to put back, as a sentence."""
    if backup is None:
        return "No whole backup stands beside it."
    return f"The newest whole backup: “greyfell restore {backup}”."


def _repository(data: Path | None) -> "Repository":
    from greyfell.records.repository import Repository
    from greyfell.records.store import Store

    return Repository(Store(data_folder(data), backed=True))


if __name__ == "__main__":
    main()
