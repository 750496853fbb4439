"""Volts over one part of a path, a lug or a cable, at the amps through it."""

import re
from typing import Literal

from greyfell.core.evidence.kinds.reading import AnyReading
from greyfell.core.evidence.part import Amps, NoVolts, Short
from greyfell.core.evidence.typed_line import Form, Heard, Said, figure, named, refuse
from greyfell.core.figures.notation import as_read

_PATH = re.compile(r"^\s*path\s+", re.I)
"""“Path” before a part of it, as a lug or a cable."""


def _read(heard: Heard) -> Said:
    text = _PATH.sub("", heard.rest)
    words = re.sub(r"(\d)\s+(?=[munµμkM]?[AV]\b)", r"\1", text).split()
    begins = next((n for n, w in enumerate(words) if figure(w, "volt") is not None), len(words))
    part = " ".join(words[:begins]).rstrip(":")
    if not part:
        refuse("A part of a path has its name, volts and amps: “path lug 12mV 300A”.")
    volts, amps = named(" ".join(words[begins:]), {"volt": "volts", "ampere": "amps"})
    return {"kind": "path", "part": part, "volts": volts, "amps": amps}


class Path(AnyReading):
    """Volts over one part of a path, a lug or a cable, at the amps through it."""

    kind: Literal["path"] = "path"
    part: Short
    volts: NoVolts
    amps: Amps

    lines = (("path lug 12mV 300A", "a part of the path: its volts at those amps"),)
    alone = (Form(lambda heard: _PATH.match(heard.rest), _read),)
    usual_percent = 1.0
    moves = "volts"

    def words(self) -> str:
        """As it is read out."""
        return f"path {self.part}: {as_read(self.volts, 'V')} at {as_read(self.amps, 'A')}"
