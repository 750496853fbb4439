"""Points out of a meter's log, as it is pasted or typed: volts, amps and watts of each line, by the
names over the columns or by the units beside the figures.
"""

import csv
import io
import re
from collections.abc import Sequence

from msgspec import Struct

from greyfell.core.errors import FieldError

UNITS = {"V": "volts", "A": "amps", "W": "watts"}
SCALES = {"": 1.0, "m": 1e-3, "u": 1e-6, "µ": 1e-6, "k": 1e3}
HEADS = {
    "volts": re.compile(r"volt|spannung|\bU\b|\bVAC\b|\[ ?k?m?V ?\]|\bV\b", re.I),
    "amps": re.compile(r"amp|current|strom|\bI\b|\[ ?[mµu]?A ?\]|\bA\b", re.I),
    "watts": re.compile(r"watt|power|leistung|\bP\b|\[ ?k?W ?\]|\bW\b", re.I),
}
"""What stands over a column of a meter's log."""
HEAD_SCALE = re.compile(r"[\[( ]([mµuk])[VAW]\b")
FIGURE = re.compile(r"^\s*([+-]?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?)\s*([mµuk]?)([VAW])?(?:AC|rms)?\s*$")
ALONE = re.compile(r"^\s*([mµuk]?)([VAW])(?: ?AC| ?rms)?\s*$")
MOST_LINES, LONGEST = 2000, 400


class LoggedReading(Struct, frozen=True, kw_only=True):
    """One point of a log: volts, amps, and watts where they were logged."""

    volts: float
    amps: float
    watts: float | None

    def line(self, pair: str) -> str:
        """As the jotter takes it."""
        watts = "" if self.watts is None else f" {self.watts:.6g}W"
        return f"{pair} {self.volts:.6g}V {self.amps:.6g}A{watts}"


def logged(text: str) -> list[LoggedReading]:
    """Every point of a log. Raises FieldError that names the line: too many, no volts, no amps.

    >>> [(p.volts, round(p.amps, 6)) for p in logged("time;U [V];I [mA]\\n10:00;23,1;14,2")]
    [(23.1, 0.0142)]
    >>> logged("10:00:01, 230.1, VAC, 0.52, A")[0].amps
    0.52
    """
    lines = [x for x in text.splitlines() if x.strip()]
    if len(lines) > MOST_LINES:
        raise FieldError("points", f"{MOST_LINES} lines are read and no more.")
    if not lines:
        raise FieldError("points", "Paste the lines of a log; there are none.")
    delimiter = _delimiter(lines[0])
    rows = [r for r in csv.reader(io.StringIO("\n".join(lines)), delimiter=delimiter) if r]
    if delimiter == ";":
        rows = [[cell.replace(",", ".") for cell in row] for row in rows]
    columns = _columns(rows[0])
    out = []
    for n, row in enumerate(rows[1:] if columns else rows, 2 if columns else 1):
        out.append(_point(row, columns, n))
    return out


def _delimiter(line: str) -> str:
    """What parts the columns."""
    return next((d for d in (";", "\t") if d in line), ",")


def _columns(head: Sequence[str]) -> dict[str, tuple[int, float]]:
    """Columns by what they hold, with their scale; none where the first line is figures."""
    if any(FIGURE.match(cell) for cell in head):
        return {}
    out: dict[str, tuple[int, float]] = {}
    for n, cell in enumerate(head):
        for key, pattern in HEADS.items():
            if key not in out and pattern.search(cell):
                scale = HEAD_SCALE.search(cell)
                out[key] = (n, SCALES[scale[1]] if scale else 1.0)
                break
    return out


def _point(row: Sequence[str], columns: dict[str, tuple[int, float]], n: int) -> LoggedReading:
    """One line as a point."""
    if sum(map(len, row)) > LONGEST:
        raise FieldError("points", f"Line {n} is too long for a log's.")
    found = _by_column(row, columns, n) if columns else _by_unit(row)
    missing = [k for k in ("volts", "amps") if k not in found]
    if missing:
        raise FieldError("points", f"Line {n} tells no {' and no '.join(missing)}.")
    return LoggedReading(volts=found["volts"], amps=found["amps"], watts=found.get("watts"))


def _by_column(
    row: Sequence[str], columns: dict[str, tuple[int, float]], n: int
) -> dict[str, float]:
    found: dict[str, float] = {}
    for key, (at, scale) in columns.items():
        if at >= len(row) or not row[at].strip():
            continue
        match = FIGURE.match(row[at])
        if match is None:
            raise FieldError("points", f"Line {n}: “{row[at][:20]}” is no figure.")
        found[key] = float(match[1]) * (SCALES[match[2]] if match[2] else scale)
    return found


def _by_unit(row: Sequence[str]) -> dict[str, float]:
    """Figures with their unit behind them, or in the next cell."""
    found: dict[str, float] = {}
    for n, cell in enumerate(row):
        match = FIGURE.match(cell)
        if match is None:
            continue
        scale, unit = match[2], match[3]
        if unit is None and n + 1 < len(row):
            alone = ALONE.match(row[n + 1])
            scale, unit = (alone[1], alone[2]) if alone else ("", None)
        if unit is not None and UNITS[unit] not in found:
            found[UNITS[unit]] = float(match[1]) * SCALES[scale]
    return found
