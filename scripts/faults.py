"""Break what Greyfell stands on and see that nothing acknowledged is lost and that what happened is
said. Run: make faults [ROUNDS=10] [WRITES=100]

Killed in the middle of writing; the disk full; the file locked, damaged, of another program, of a
newer version; the folder read-only, removed; another server on it. Each on a folder of its own,
with a server in a process of its own.
"""

import contextlib
import http.client
import http.cookiejar
import io
import json
import os
import re
import resource
import signal
import socket
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from pathlib import Path

import click
from PIL import Image
from werkzeug.datastructures import FileStorage
from werkzeug.test import encode_multipart

from greyfell.records.checking import backups, check
from greyfell.records.copying import FILE
from greyfell.records.donors import Donors
from greyfell.records.repository import Repository
from greyfell.records.store import Store
from greyfell.records.stores import Stores

RECORD = {
    "format": "greyfell.transformer/1",
    "tag": "T-1",
    "leads": [{"id": x} for x in "ABCD"],
    "readings": [],
}
NOBODY = 65534
PATIENCE = 120
"""Seconds before a process counts as hanging, on a machine that is busy with other things."""
CUT_OFF = (OSError, http.client.HTTPException)
"""What a browser sees of a server that is killed while it answers."""
AS_USER = """
import os
import greyfell.web.serving
from greyfell.cli import main
os.setgid({user})
os.setuid({user})
main({args})
"""


def free_port():
    """A port that nobody listens on."""
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        return found.getsockname()[1]


class Bench:
    """A server in its own process on a folder, and a browser that asks it."""

    def __init__(self, folder, *, limit=None, user=None):
        self.folder, self.port = Path(folder), free_port()
        args = ["serve", "--no-browser", "--port", str(self.port), "--data", str(folder)]
        self.command = [sys.executable, "-m", "greyfell.cli", *args]
        if user is not None:  # the interpreter itself may be out of nobody's reach
            self.command = [sys.executable, "-c", AS_USER.format(user=user, args=args)]

        def before():
            # a shell's background jobs ignore it, and hand that on to what they start
            signal.signal(signal.SIGINT, signal.SIG_DFL)
            if limit is not None:
                signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
                resource.setrlimit(resource.RLIMIT_FSIZE, (limit, limit))

        self.process = subprocess.Popen(
            self.command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, preexec_fn=before
        )
        jar = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(jar))
        self.token = ""

    @property
    def address(self):
        """Where it answers."""
        return f"http://127.0.0.1:{self.port}"

    def wait(self, seconds=PATIENCE):
        """Until it answers; whether it does."""
        until = time.monotonic() + seconds
        while time.monotonic() < until and self.process.poll() is None:
            with contextlib.suppress(OSError):
                page = self.opener.open(f"{self.address}/import", timeout=5).read().decode()
                self.token = re.search(r'csrf_token" value="([^"]+)"', page)[1]
                return True
            time.sleep(0.05)
        return False

    def ask(self, path, **fields):
        """Status and page of a request; a write where there are fields, of files where some are
        bytes.
        """
        given = {"csrf_token": self.token, **fields}
        kind = "application/x-www-form-urlencoded"
        body = urllib.parse.urlencode(given).encode()
        if any(isinstance(x, bytes) for x in given.values()):
            files = {
                k: FileStorage(io.BytesIO(x), f"{k}.jpg") if isinstance(x, bytes) else x
                for k, x in given.items()
            }
            boundary, body = encode_multipart(files)
            kind = f"multipart/form-data; boundary={boundary}"
        request = urllib.request.Request(self.address + path, data=body if fields else None)
        request.add_header("Origin", self.address)
        request.add_header("Content-Type", kind)
        if "line" in fields:
            request.add_header("X-Greyfell", "part")
        try:
            with self.opener.open(request, timeout=PATIENCE) as answer:
                return answer.status, answer.read().decode()
        except urllib.error.HTTPError as error:
            return error.code, error.read().decode()

    def jot(self, line, once=""):
        """Whether a line was acknowledged as stored, and the page."""
        status, page = self.ask("/pieces/T-1/jot", line=line, at="cold", once=once)
        return status == 200 and 'data-good="yes"' in page, page

    def kill(self, how=signal.SIGKILL):
        """End it; what it had said."""
        self.process.send_signal(how)
        said, _ = self.process.communicate(timeout=PATIENCE)
        return said.decode(errors="replace")


@contextlib.contextmanager
def shelf(*, readable_by=None):
    """A folder with one piece in it."""
    with tempfile.TemporaryDirectory() as folder:
        made = Path(folder) / "data"
        store = Store(made)
        Repository(store).add(RECORD)
        store.close()
        if readable_by is not None and os.geteuid() == 0:
            Path(folder).chmod(0o755)
            for path in [made, *made.rglob("*")]:
                os.chown(path, readable_by, readable_by)
        yield made


def readings(folder):
    """The readings of the piece, by their notes or ohms; and what a look over finds wrong."""
    store = Store(folder)
    found = Repository(store).document("T-1")["readings"]
    wrong = list(check(store).wrong)
    store.close()
    return found, wrong


KEPT = (
    ("/stores", {"kind": "lamp", "watts": "60"}),
    ("/donors", {"kind": "oven", "mass_kg": "14"}),
)
"""Where entries and donors are kept, and what of."""


def seen_photos(folder):
    """The notes of the piece's photos, and what of them has no picture."""
    store = Store(folder)
    repository = Repository(store)
    photos = repository.document("T-1").get("photos") or []
    lost = [p["file"] for p in photos if repository.picture("T-1", p["file"]) is None]
    lost += sorted(set(repository.pictures("T-1")) - {p["file"] for p in photos})
    store.close()
    return {p["note"] for p in photos}, lost


def a_photo(n):
    """A small photo that differs from every other."""
    out = io.BytesIO()
    Image.new("RGB", (64, 64), (n % 256, n // 256 % 256, 99)).save(out, "JPEG")
    return out.getvalue()


def kept_titles(folder):
    """What stores and donors are called."""
    store = Store(folder)
    titles = [item.title for item in Stores(store).items()]
    titles += [donor.title for donor in Donors(store).all()]
    store.close()
    return titles


def command(*args, folder=None):
    """Exit status and words of a command."""
    given = [sys.executable, "-m", "greyfell.cli", *args]
    given += ["--data", str(folder)] if folder is not None else []
    done = subprocess.run(given, capture_output=True, text=True, timeout=60, check=False)
    return done.returncode, done.stdout + done.stderr


def plain(what, said):
    """Words that are no traceback and say something."""
    if "Traceback" in said:
        yield f"{what}: a traceback"
    if len(said.strip()) < 20:
        yield f"{what}: hardly a word: {said!r}"


# ------------------------------------------------------------------ each fault


def killed(rounds, writes):
    """Killed while three tabs write readings and one writes stores and donors: nothing acknowledged
    is lost, nothing stands twice, the file is whole; and a backup taken meanwhile restores.
    """
    with shelf() as folder:
        known, named, shown = [], [], []
        for turn in range(rounds):
            bench = Bench(folder)
            if not bench.wait():
                yield f"round {turn}: the server does not start: {bench.kill()}"
                return
            stop = threading.Event()

            def tab(n, turn=turn, bench=bench, stop=stop):
                for k in range(writes):
                    ohms = f"{turn + 1}.{n}{k:04d}"
                    with contextlib.suppress(*CUT_OFF):
                        if bench.jot(f"A-B {ohms}", once=f"{turn}-{n}-{k}")[0]:
                            known.append(float(ohms))
                    if stop.is_set():
                        return

            def keeper(turn=turn, bench=bench, stop=stop):
                for k in range(writes):
                    title = f"kept {turn} {k}"
                    where, fields = KEPT[k % len(KEPT)]
                    with contextlib.suppress(*CUT_OFF):
                        status, page = bench.ask(where, title=title, once=f"{turn}-{k}", **fields)
                        if status == 200 and title in page:
                            named.append(title)
                    if stop.is_set():
                        return

            def camera(turn=turn, bench=bench, stop=stop):
                for k in range(writes // 4):
                    note = f"photo {turn} {k}"
                    fields = {"note": note, "once": f"p{turn}-{k}"}
                    data = a_photo(turn * writes + k)
                    with contextlib.suppress(*CUT_OFF):
                        status, page = bench.ask("/pieces/T-1/photos", photo=data, **fields)
                        if status == 200 and note in page:
                            shown.append(note)
                    if stop.is_set():
                        return

            tabs = [threading.Thread(target=tab, args=(n,)) for n in range(3)]
            tabs.append(threading.Thread(target=keeper))
            tabs.append(threading.Thread(target=camera))
            for t in tabs:
                t.start()
            until = time.monotonic() + 120
            aim = (turn + 1) * writes
            while len(known) < aim and time.monotonic() < until:
                time.sleep(0.01)
            if turn == 0:
                copied = command("backup", folder=folder)
            stop.set()
            bench.kill()
            for t in tabs:
                t.join()
        found, wrong = readings(folder)
        stored = [r["ohms"] for r in found]
        lost = set(known) - set(stored)
        print(f"killed: {len(known)} acknowledged in {rounds} rounds, {len(lost)} lost")
        titles = kept_titles(folder)
        gone = {*named} - {*titles}
        print(f"killed: {len(named)} stores and donors acknowledged, {len(gone)} lost")
        if gone or len(titles) != len(set(titles)):
            yield f"killed: stores or donors lost {sorted(gone)[:5]}, or twice"
        notes, orphans = seen_photos(folder)
        unseen = {*shown} - notes
        print(
            f"killed: {len(shown)} photos acknowledged, {len(unseen)} lost, {len(orphans)} orphans"
        )
        if unseen or orphans:
            yield f"killed: photos lost {sorted(unseen)[:5]}, without a picture {orphans[:5]}"
        yield from (f"killed: {line}" for line in wrong)
        if lost or len(stored) != len(set(stored)):
            yield f"killed: lost {sorted(lost)[:5]}, twice {len(stored) - len(set(stored))}"
        made = [p for p in backups(folder) if p.name.startswith("asked")]
        if copied[0] or not made:
            yield f"killed: no backup: {copied}"
            return
        code, said = command("restore", str(made[-1]), "--yes", folder=folder)
        back, wrong = readings(folder)
        if code or wrong or not 0 < len(back) <= len(found):
            yield f"killed: the backup does not restore: {said} {wrong} {len(back)}"


def full_disk():
    """The file may grow no more: what is acknowledged is kept, the rest is said not to be stored,
    and pages go on.
    """
    with shelf() as folder:
        size = (folder / FILE).stat().st_size
        bench = Bench(folder, limit=size + 40_000)
        if not bench.wait():
            yield f"full: does not start: {bench.kill()}"
            return
        good, last = [], ""
        for n in range(400):
            stored, last = bench.jot(f"A-B {n + 1}.5", once=f"k{n}")
            if not stored:
                break
            good.append(n + 1.5)
        if "Nothing of this was stored" not in last or "Traceback" in last:
            yield f"full: said {last[:300]!r}"
        if bench.ask("/pieces/T-1/")[0] != 200:
            yield "full: the piece does not open any more"
        yield from (x for x in plain("full", bench.kill() + " " * 40) if "traceback" in x)
        found, wrong = readings(folder)
        print(f"full: {len(good)} stored before the disk was full")
        if wrong or {r["ohms"] for r in found} != set(good):
            yield f"full: {wrong} {len(found)} of {len(good)}"


def locked():
    """Another program holds the file: a line is said not to be stored, and once it lets go the same
    line is stored once.
    """
    with shelf() as folder:
        bench = Bench(folder)
        bench.wait()
        other = sqlite3.connect(folder / FILE)
        other.execute("BEGIN EXCLUSIVE")
        stored, page = bench.jot("A-B 1.3", once="k")
        if stored or "Another program holds the data file" not in page:
            yield f"locked: said {page[:300]!r}"
        other.rollback()
        other.close()
        again = [bench.jot("A-B 1.3", once="k")[0] for _ in range(2)]
        bench.kill()
        if again != [True, True] or len(readings(folder)[0]) != 1:
            yield f"locked: {again}, {len(readings(folder)[0])} stored"


def damaged(tries=12):
    """Pages of the file overwritten: never a traceback, and the damage is named."""
    with shelf() as folder:
        store = Store(folder)
        note = {"kind": "core_proof", "ohms": 0.1, "note": "x" * 300}
        for _ in range(30):
            Repository(store).append("T-1", [note] * 10)
        store.close()
        path = folder / FILE
        whole = path.read_bytes()
        pages = len(whole) // 4096
        silent = 0
        for page in range(0, pages, max(1, pages // tries)):
            spoilt = bytearray(whole)
            spoilt[page * 4096 : (page + 1) * 4096] = os.urandom(4096)
            for log in ("-wal", "-shm"):
                path.with_name(path.name + log).unlink(missing_ok=True)
            path.write_bytes(spoilt)
            code, said = command("check", folder=folder)
            yield from plain(f"page {page}, check", said)
            silent += code == 0
            bench = Bench(folder)
            if bench.wait():
                for address in ("/", "/pieces/T-1/"):
                    status, shown = bench.ask(address)
                    if status not in (200, 404, 422, 503) or "damaged" not in shown:
                        yield f"page {page}: {address} says {status}, nothing of damage"
                yield from (x for x in plain("served", bench.kill() + " " * 40) if "trace" in x)
            else:
                yield from plain(f"page {page}, start", bench.kill())
        print(f"damaged: {silent} of some {tries} spoilt pages were not noticed by check")


def odd_files():
    """No database, another program's, a newer one, an empty one: a sentence, and left as it is."""
    for name, make in (
        ("no database", lambda p: p.write_bytes(b"not a database at all" * 500)),
        ("another program's", lambda p: sqlite3.connect(p).execute("create table t (x)").close()),
        ("a newer one", newer),
    ):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / FILE
            make(path)
            before = path.read_bytes()
            code, said = command("list", folder=folder)
            yield from plain(name, said)
            if code != 3 or path.read_bytes() != before:
                yield f"{name}: status {code}, or the file was changed: {said}"


def newer(path):
    """A data file of a version to come."""
    Store(path.parent).close()
    with contextlib.closing(sqlite3.connect(path)) as db:
        db.execute("update alembic_version set version_num = '0099'")
        db.commit()
        db.execute("PRAGMA journal_mode=DELETE")


def read_only():
    """A folder that may not be written, as a user who is nobody in particular."""
    user = NOBODY if os.geteuid() == 0 else None
    with shelf(readable_by=user) as folder:
        folder.chmod(0o500)
        bench = Bench(folder, user=user)
        started = bench.wait(20)
        said = bench.kill() if started else bench.process.communicate()[0].decode()
        folder.chmod(0o700)
        if started:
            yield "read-only: it started"
        yield from plain("read-only", said)
        if "cannot be" not in said:
            yield f"read-only: {said}"


def removed():
    """The folder is moved away while the program runs: no line is acknowledged and lost."""
    with shelf() as folder:
        bench = Bench(folder)
        bench.wait()
        bench.jot("A-B 1.1", once="a")
        away = folder.with_name("away")
        folder.rename(away)
        stored, page = bench.jot("A-B 1.2", once="b")
        if stored or "moved, removed or replaced" not in page:
            yield f"removed: {page[:300]!r}"
        away.rename(folder)
        if not bench.jot("A-B 1.2", once="b")[0]:
            yield "removed: put back, it does not go on"
        bench.kill()
        if [r["ohms"] for r in readings(folder)[0]] != [1.1, 1.2]:
            yield f"removed: {readings(folder)[0]}"


def two_servers():
    """A second server on the same folder says where the first one is, and ends."""
    with shelf() as folder:
        first = Bench(folder)
        if not first.wait():
            yield f"two servers: the first does not start: {first.kill()}"
            return
        second = Bench(folder)
        try:
            said, _ = second.process.communicate(timeout=PATIENCE)
        except subprocess.TimeoutExpired:
            yield f"two servers: the second goes on: {second.kill()}, beside {first.kill()}"
            return
        if first.address not in said.decode():
            yield f"two servers: {said.decode()}"
        code, words = command("restore", str(folder / FILE), "--yes", folder=folder)
        if code == 0 or "close it first" not in words:
            yield f"two servers: restored under a running server: {words}"
        ended = first.kill(signal.SIGINT)
        if "Everything entered is kept" not in ended:
            yield f"two servers: at the end it says {ended!r}"


def idle():
    """A hundred half-open requests stop nobody."""
    with shelf() as folder:
        bench = Bench(folder)
        bench.wait()
        held = []
        for _ in range(150):
            one = socket.create_connection(("127.0.0.1", bench.port))
            one.sendall(b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\n")
            held.append(one)
        if bench.ask("/")[0] != 200:
            yield "idle: nobody else gets an answer"
        for one in held:
            one.close()
        bench.kill()


def full_output():
    """What is printed has nowhere to go, or nobody reads it."""
    with shelf() as folder:
        base = f"{sys.executable} -m greyfell.cli export T-1 --data {folder}"
        for end in ("> /dev/full", "| true", f"--to {folder}/{FILE}/x"):
            done = subprocess.run(
                ["bash", "-c", f"{base} {end}"], capture_output=True, text=True, check=False
            )
            if "Traceback" in done.stderr:
                yield f"output {end}: {done.stderr[-300:]}"


FAULTS = (
    full_disk,
    locked,
    damaged,
    odd_files,
    read_only,
    removed,
    two_servers,
    idle,
    full_output,
)


def run(rounds, writes, faults=FAULTS):
    """Every fault; what may not be."""
    bad = []
    for fault in faults:
        found = list(fault())
        print(f"{fault.__name__}: {'; '.join(found) or 'held'}", flush=True)
        bad += found
    found = list(killed(rounds, writes)) if rounds else []
    if rounds:
        print(f"killed: {'; '.join(found) or 'held'}")
    return bad + found


@click.command()
@click.option("--rounds", default=10, envvar="ROUNDS", show_default=True)
@click.option("--writes", default=100, envvar="WRITES", show_default=True)
def main(rounds, writes):
    """Break what Greyfell stands on."""
    bad = run(rounds, writes)
    print(json.dumps({"faults that did not hold": len(bad)}))
    sys.exit(bool(bad))


if __name__ == "__main__":
    main()
