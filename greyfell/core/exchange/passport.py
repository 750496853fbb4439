"""The passport of a piece: one HTML file that outlives the program, with the open record inside;
and how the record comes out of it again.
"""

import base64
import binascii
import json
from collections.abc import Mapping
from html.parser import HTMLParser
from typing import Any

from greyfell.core.errors import FieldError
from greyfell.core.evidence.loading import MOST_BYTES, load_json

RECORD_ID = "greyfell-record"
"""The id of the script element that holds the record, as JSON that no browser runs."""
PICTURE = "data:image/jpeg;base64,"
FILE = "data-file"
MOST_PICTURES = 200


def sealed(document: Mapping[str, Any]) -> str:
    """A record as JSON that may stand in a script element: no “<” in it ends the element.

    >>> sealed({"title": "</script>"})
    '{"title": "\\\\u003c/script>"}'
    """
    return json.dumps(document, ensure_ascii=False).replace("<", "\\u003c")


def picture(data: bytes) -> str:
    """A photo as an address that holds it."""
    return PICTURE + base64.b64encode(data).decode()


def is_passport(text: str) -> bool:
    """Whether a text is HTML that holds a record."""
    return text.lstrip("﻿ \r\n\t")[:15].lower().startswith("<!doctype html") and RECORD_ID in text


def opened(text: str) -> tuple[dict[str, Any], dict[str, bytes]]:
    """The record and the pictures of a passport, by their files. Raises FieldError."""
    reader = _Reader()
    reader.feed(text)
    found = "".join(reader.record)
    if len(found.encode()) > MOST_BYTES:
        raise FieldError("file", f"A record may be at most {MOST_BYTES // 2**20} MB.")
    document = load_json(found)
    if not isinstance(document, dict):
        raise FieldError("file", "The passport holds no record.")
    try:
        return document, {f: base64.b64decode(x, validate=True) for f, x in reader.pictures.items()}
    except binascii.Error:
        raise FieldError("file", "A photo of the passport is damaged.") from None


class _Reader(HTMLParser):
    """Picks the record and the pictures out of the page; everything else is passed over."""

    def __init__(self) -> None:
        super().__init__(convert_charrefs=True)
        self.inside = False
        self.record: list[str] = []
        self.pictures: dict[str, str] = {}

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        given = dict(attrs)
        self.inside = tag == "script" and given.get("id") == RECORD_ID
        file, address = given.get(FILE), given.get("href") or ""
        if file and address.startswith(PICTURE) and len(self.pictures) < MOST_PICTURES:
            self.pictures[file] = address.removeprefix(PICTURE)

    def handle_endtag(self, tag: str) -> None:
        if tag == "script":
            self.inside = False

    def handle_data(self, data: str) -> None:
        if self.inside:
            self.record.append(data)
