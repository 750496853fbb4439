"""JSON read as strictly as the formats demand, before anything is made of it."""

import json
import math
import re
from typing import Any

from greyfell.core.errors import FieldError

FORMAT = "greyfell.transformer/1"
"""How a record says what it is."""
PRACTISED = "Practice piece"
"""How the title of a piece for practice begins: it is no iron on a shelf."""
PRACTICE = "practice"
"""The statement that says a piece is for practice, and how the shelf files it."""
MOST_BYTES = 4 * 1024 * 1024
"""A record larger than this is refused; ten thousand readings take about two megabytes."""


def load_json(data: bytes | str, what: str = "The file") -> Any:
    """Parse JSON as strictly as the format demands: no NaN, no infinities, no 40 MB files. Raises
    FieldError.
    """
    raw = data.encode() if isinstance(data, str) else data
    if len(raw) > MOST_BYTES:
        raise FieldError(
            "file",
            (
                f"{what} may be at most {MOST_BYTES // 2**20} MB; {len(raw) / 2**20:.0f} MB "
                "were given."
            ),
        )
    if not raw.strip():
        raise FieldError("file", f"{what} is empty; a {FORMAT} document was expected.")

    def refuse(constant: str) -> float:
        raise FieldError("file", f"{what} holds {constant}; every number must be finite.")

    def finite(text: str) -> float:
        number = float(text)
        return number if math.isfinite(number) else refuse(text)

    try:
        text = raw.decode("utf-8-sig")
        _shallow(text, what)
        found = json.loads(
            text,
            parse_constant=refuse,
            parse_float=finite,
            object_pairs_hook=lambda pairs: _once_each(pairs, what),
        )
        if "\\u" in text:
            json.dumps(found, ensure_ascii=False).encode()
        return found
    except UnicodeDecodeError:
        raise FieldError("file", f"{what} is not UTF-8 text.") from None
    except UnicodeEncodeError:
        raise FieldError("file", f"{what} holds half a letter (a lone surrogate).") from None
    except json.JSONDecodeError as error:
        raise FieldError(
            "file", f"{what} is not JSON: {error.msg} in line {error.lineno}."
        ) from None
    except ValueError as error:
        if isinstance(error, FieldError):
            raise
        raise FieldError("file", f"{what} holds a number too long to read.") from None


STRINGS = re.compile(r'"(?:[^"\\]|\\.)*"', re.S)
BRACKETS = re.compile(r"[\[\]{}]")
MOST_DEPTH = 32
"""So deep may lists and objects stand in each other; a record needs six."""


def _shallow(text: str, what: str) -> None:
    """Raises FieldError where lists and objects stand too deep in each other."""
    depth = 0
    for bracket in BRACKETS.findall(STRINGS.sub("", text)):
        depth += 1 if bracket in "[{" else -1
        if depth > MOST_DEPTH:
            sentence = f"{what} is nested too deeply to be a record: at most {MOST_DEPTH} levels."
            raise FieldError("file", sentence)


def _once_each(pairs: list[tuple[str, Any]], what: str) -> dict[str, Any]:
    """An object whose keys each stand once. Raises FieldError."""
    found = dict(pairs)
    if len(found) < len(pairs):
        keys = [key for key, _ in pairs]
        twice = next(key for key in keys if keys.count(key) > 1)
        raise FieldError("file", f"{what} says {twice[:60]} twice in one place; which counts?")
    return found
