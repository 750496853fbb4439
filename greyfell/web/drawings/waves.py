"""One cycle of a rig: volts out of the piece and amps from the wall; below, the first cycles after
it is switched on at the worst moment.
"""

from collections.abc import Iterator, Sequence

import numpy as np

from greyfell.core.chain.solving import Solved, SwitchedOn
from greyfell.core.figures.notation import engineering
from greyfell.core.network.parts import Figures
from greyfell.web.drawings.shapes import Drawing, Shape, line, path, text

WIDTH, LEFT, RIGHT = 640.0, 20.0, 620.0
BAND, GAP = 84.0, 48.0
MOST = 500
SMALL = "t t-small"


def _peak(wave: Figures, unit: str) -> str:
    return engineering(float(np.abs(wave).max()), unit)


def _band(words: str, wave: Figures, middle: float) -> Iterator[Shape]:
    yield text(LEFT, middle - BAND / 2 - 8, words, SMALL)
    yield line(LEFT, middle, RIGHT, middle, "axis")
    yield path(_along(wave, middle), "decay")


def waves_drawing(solved: Solved, on: SwitchedOn, told: str = "iron left at worst") -> Drawing:
    """Three bands: volts, amps, amps after switching on. Pure."""
    run = solved.run
    joints = solved.built.joints
    out = solved.after("piece").joint
    drawing = Drawing(WIDTH, 3 * (BAND + GAP) + 20, "Waves", "One cycle, and switching on.")
    if run is None:
        return drawing
    volts = run.volts(out.hot, out.cold)
    amps = run.amps(joints[0].through)
    bands = (
        (f"volts out of the piece, peak {_peak(volts, 'V')}", volts),
        (f"amps from the wall, peak {_peak(amps, 'A')}", amps),
        (f"amps from the wall, switched on: {engineering(on.peak_amps, 'A')} of peak", on.amps),
    )
    for n, (words, wave) in enumerate(bands):
        drawing.add(*_band(words, wave, 30 + GAP / 2 + n * (BAND + GAP) + BAND / 2))
    cycles = len(on.times) / max(len(run.times), 1)
    said = f"above one cycle, below the first {cycles:.0f}; switched on {told}, lamps cold"
    drawing.add(text(LEFT, drawing.height - 6, said, f"{SMALL} quiet"))
    return drawing


def _along(wave: Sequence[float] | np.ndarray, middle: float) -> str:
    """A wave in its band, to its own scale; thinned where it has more points than can be seen."""
    values = np.asarray(wave, dtype=float)
    if len(values) > MOST:
        whole = len(values) // MOST
        parts = values[: whole * MOST].reshape(MOST, whole)
        at = np.abs(parts).argmax(axis=1)
        values = parts[np.arange(MOST), at]
    top = max(float(np.abs(values).max()), 1e-12)
    x = np.linspace(LEFT, RIGHT, len(values))
    y = middle - values / top * BAND / 2
    return "M" + "L".join(f"{a:.1f} {b:.1f}" for a, b in zip(x, y, strict=True))
