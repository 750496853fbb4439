"""The log: everything that was done, across pieces, to be read and printed."""

from flask import current_app, request

from greyfell.records.log import Entry, log_of
from greyfell.records.store import Store
from greyfell.web.showing import Page


class LogPage(Page, frozen=True, kw_only=True):
    """A page of the log, of all pieces or of one."""

    template = "log.html"
    entries: list[Entry]
    more: bool
    page: int
    tag: str


def show() -> str:
    """A page of the log, of all pieces or of one."""
    store: Store = current_app.extensions["store"]
    page = max(1, request.args.get("page", 1, type=int))
    tag = request.args.get("tag", "").strip()[:24]
    entries, more = log_of(store, page, tag)
    return LogPage(entries=entries, more=more, page=page, tag=tag).render()
