"""The families that a record's owner may name: the published list."""

from typing import Literal

Family = Literal["microwave", "sign", "mains", "choke", "variable", "other"]


FAMILIES: tuple[Family, ...] = ("microwave", "mains", "sign", "choke", "variable", "other")
