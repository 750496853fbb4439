"""What a page shows, as one typed object: a page declares its template and every name that it hands
over; a test holds the names of both against each other.
"""

from typing import Any, ClassVar

from flask import render_template
from msgspec import Struct


class Shown(Struct, frozen=True, kw_only=True):
    """A part of a page. Parts within it hand over their own names beside its own."""

    def names(self) -> dict[str, Any]:
        """Every name that a template may use, with what it stands for."""
        out: dict[str, Any] = {}
        for name in self.__struct_fields__:
            value = getattr(self, name)
            parts = value if isinstance(value, tuple) else (value,)
            within = [part for part in parts if isinstance(part, Shown)]
            if within:
                for part in within:
                    out |= part.names()
            else:
                out[name] = value
        return out


class Page(Shown, frozen=True, kw_only=True):
    """A whole page, or a piece of one that is put in by itself."""

    template: ClassVar[str]

    def render(self) -> str:
        """The page as it is sent."""
        return render_template(self.template, **self.names())
