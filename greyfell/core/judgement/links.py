"""Thermal links: the one-shot fuse under a primary's first tape, blown or bridged."""

import re
from collections.abc import Iterator

from greyfell.core.evidence.record import Transformer

LINK = (
    r"(?:thermal|temperature|thermo)[- ]?(?:link|fuse|cut-?out|cut-?off|protector|switch)|"
    r"\bTCO\b|\bthermofuse"
)
BRIDGED = (
    r"bridg\w*|bypass\w*|jumper\w*|short(?:ed)? (?:out|across|it)|shorted|link(?:ed)? out|"
    r"wire(?:d)? (?:across|over|through)|with a wire|removed|taken out|cut out of"
)
NOT_DONE = re.compile(r"\b(?:not|never|n['’]t|do not|must not|without|un)[- ]?(?:be )?bridg", re.I)
TOLD = re.compile(
    rf"(?:{LINK}).{{0,80}}?(?:{BRIDGED})|(?:{BRIDGED}).{{0,60}}?(?:{LINK})", re.I | re.S
)
READ_ACROSS = (
    "Most often it is the one-shot thermal link under the first layer of tape: bare both its ends, "
    "read across the link (next to nothing when whole), then from its inner end along the winding. "
    "Replace it like for like, the same °C and amps; never bridge it for use."
)
"""How an open primary is read across its link. Common practice."""


def bridged_link(record: Transformer) -> str:
    """The words on record that tell of a bridged thermal link; empty where none do.

    >>> told = Transformer.model_construct(statements=[], parts=[], changes=[], leads=[],
    ...                                    readings=[], title="thermal fuse bridged with a wire")
    >>> bridged_link(told)
    'thermal fuse bridged'
    """
    for text in _texts(record):
        found = TOLD.search(text)
        if found is not None and not NOT_DONE.search(text):
            return " ".join(found.group(0).split())
    return ""


def _texts(record: Transformer) -> Iterator[str]:
    yield record.title
    yield from (s.text for s in record.statements)
    yield from (f"{p.what} {p.text}" for p in record.parts)
    yield from (f"{c.what} {c.note}" for c in record.changes)
    for lead in record.leads:
        yield f"{lead.note} {lead.damage or ''}"
    yield from (r.note for r in record.readings)
