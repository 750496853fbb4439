"""One figure with its range on a scale of zones: sound, caution, stop."""

from collections.abc import Callable

from msgspec import Struct

from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.limits import MOST_FLUX
from greyfell.core.figures.quantity import Quantity
from greyfell.core.planner_kit.declare import Planned
from greyfell.core.planners.nameplate import FLUX_CAUTION
from greyfell.web.drawings.shapes import Drawing, circle, line, rect, text

LEFT, WIDE, MIDDLE = 40.0, 380.0, 150.0


class Scale(Struct, frozen=True, kw_only=True):
    """A scale: its words, its ends, the bounds between zones with their words, how a figure is
    written on it.
    """

    title: str
    low: float
    high: float
    zones: tuple[tuple[float, str, str], ...]
    write: Callable[[float], str]

    def at(self, value: float) -> float:
        """Where a value stands; beyond an end, at it."""
        share = (value - self.low) / (self.high - self.low)
        return LEFT + WIDE * min(1.0, max(0.0, share))


def draw(scale: Scale, figure: Quantity) -> Drawing:
    """The scale with its zones, the figure as a mark and its range as a bar."""
    said = scale.write(figure.value)
    drawing = Drawing(460, 260, f"{scale.title}: {said}", "A scale with its zones, to scale.")
    _zones(drawing, scale)
    x = scale.at(figure.value)
    low, high = scale.at(figure.low), scale.at(figure.high)
    drawing.add(line(low, MIDDLE - 16, high, MIDDLE - 16, "zone-range"))
    drawing.add(line(x, MIDDLE - 30, x, MIDDLE + 22, "zone-mark"))
    drawing.add(circle(x, MIDDLE - 16, 6, "zone-dot"))
    drawing.add(text(x, MIDDLE - 42, said, "t t-strong mono", "middle"))
    drawing.add(text(LEFT, 250, "to scale; the bar is the range", "t t-small quiet"))
    return drawing


def _zones(drawing: Drawing, scale: Scale) -> None:
    begin = scale.low
    for k, (end, words, look) in enumerate(scale.zones):
        x, width = scale.at(begin), scale.at(end) - scale.at(begin)
        drawing.add(rect(x, MIDDLE, width, 18, f"zone zone-{look}"))
        drawing.add(
            text(x + width / 2, MIDDLE + 62, words, f"t t-small zone-text-{look}", "middle")
        )
        if k + 1 < len(scale.zones):
            drawing.add(line(x + width, MIDDLE - 6, x + width, MIDDLE + 26, "axis"))
            bound = scale.write(end)
            drawing.add(text(x + width, MIDDLE + 42, bound, "t mono t-small", "middle"))
        begin = end


def flux_scale(planned: Planned, _record: Transformer | None) -> Drawing:
    """Flux over the plate's, with where caution and stop begin."""
    flux = planned.found.flux_ratio
    least = min(0.8, 0.9 * flux.low)
    most = max(1.3, 1.1 * flux.high)
    scale = Scale(
        title="Flux over the plate's",
        low=least,
        high=most,
        zones=(
            (FLUX_CAUTION, "within the plate", "sound"),
            (MOST_FLUX, "hotter", "caution"),
            (most, "never", "stop"),
        ),
        write=lambda value: f"{value:.2f}",
    )
    return draw(scale, flux)


def heat_scale(planned: Planned, _record: Transformer | None) -> Drawing:
    """The hottest place of the winding against its insulation's limit."""
    spot, limit = planned.found.hot_spot_celsius, planned.given.limit_celsius
    least = min(0.0, spot.low)
    most = max(1.25 * limit, 1.1 * spot.high)
    scale = Scale(
        title="Hottest place of the winding",
        low=least,
        high=most,
        zones=((limit, "within its limit", "sound"), (most, "insulation ages", "stop")),
        write=lambda value: f"{value:.0f} °C",
    )
    return draw(scale, spot)
