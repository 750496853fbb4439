"""Conductors that a window may be filled with: enamelled wire, cable, bundles of strands, sheet."""

from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.figures.wire import ENAMELLED_MM, METALS, Metal, area_mm2, ohms_per_metre

CABLES_MM = (
    (6.0, 5.3),
    (10.0, 6.8),
    (16.0, 8.1),
    (25.0, 10.2),
    (35.0, 11.7),
    (50.0, 13.9),
    (70.0, 16.0),
    (95.0, 18.2),
)
"""Section in mm² and greatest overall diameter in mm of H07V-K. W-T4, EN 50525-2-31."""
WELDING_MM = ((70.0, 17.2), (95.0, 19.2))
"""The same of welding cable H01N2-D, the middle of its limits; its rubber is thick. W-T4."""
TAPED = 0.5
"""Thin tape around a bundle of strands, mm on its diameter. Common practice."""
BUNDLE_FILL = 0.72
"""Copper of a round bundle of fine enamelled strands over its circle. REF-M-15, less slack."""
SHEET_TAPE_MM = 0.25
"""Tape or paper between the turns of a sheet, mm. Common practice."""
CABLE_CELSIUS, ENAMEL_CELSIUS, WELDING_CELSIUS = 70.0, 130.0, 85.0
"""What the insulation bears: PVC (IEC 60502), enamel of class B (IEC 60317), rubber (EN 50525-2-81,
from memory), °C."""
LIMITS = {
    "enamelled": ENAMEL_CELSIUS,
    "aluminium wire": ENAMEL_CELSIUS,
    "cable": CABLE_CELSIUS,
    "welding cable": WELDING_CELSIUS,
    "strands": ENAMEL_CELSIUS,
    "sheet": ENAMEL_CELSIUS,
    "aluminium sheet": ENAMEL_CELSIUS,
}
"""°C that a conductor's insulation bears, by how it is made."""
LEAST_BEND = 4.0
"""Radius of the tightest bend in overall diameters. The bench's rule."""


WIRES = (
    ("enamelled wire", "enamelled", "copper"),
    ("enamelled aluminium wire", "aluminium wire", "aluminium"),
)
"""Round wire in the same sizes of either metal. IEC 60317-0-1, IEC 60317-0-3 (from memory)."""


class Conductor(Struct, frozen=True, kw_only=True):
    """What one turn is made of: metal in mm² of one in hand, overall diameter in mm of one, so many
    in hand; a sheet has its thickness instead of a diameter.
    """

    title: str
    made: str
    mm2: float
    overall_mm: float
    in_hand: int = 1
    material: str = "copper"
    thick_mm: float = 0.0

    @property
    def metal(self) -> Metal:
        """Its metal's figures."""
        return METALS[self.material]

    @property
    def rolled(self) -> bool:
        """Whether it is a sheet, wound turn upon turn."""
        return self.thick_mm > 0

    @property
    def whole_mm2(self) -> float:
        """Metal of a whole turn, mm². Geometry.

        >>> Conductor(title="two", made="wire", mm2=1.5, overall_mm=1.6, in_hand=2).whole_mm2
        3.0
        """
        return self.mm2 * self.in_hand

    @property
    def limit_celsius(self) -> float:
        """What its insulation bears, °C."""
        return LIMITS[self.made]

    def ohms(self, metres: float, celsius: float = 20.0) -> float:
        """Ohms of so many metres of turns. REF-W-05.

        >>> wire = Conductor(title="one", made="wire", mm2=1.0, overall_mm=1.3)
        >>> round(wire.ohms(100.0), 3), round(wire.ohms(100.0, 75.0), 3)
        (1.724, 2.097)
        """
        return metres * ohms_per_metre(self.whole_mm2, self.metal, celsius)

    @property
    def name(self) -> str:
        """What a turn is of."""
        return self.title if self.in_hand == 1 else f"{self.in_hand} in hand of {self.title}"

    def several(self, in_hand: int) -> "Conductor":
        """The same, so many in hand."""
        return replace(self, in_hand=in_hand)


def strands(overall_mm: float) -> Conductor:
    """A bundle of fine enamelled strands of so much overall, taped: as many as go in. REF-M-15."""
    mm2 = BUNDLE_FILL * area_mm2(max(overall_mm - TAPED, 0.0))
    return Conductor(
        title=f"strand bundle of {mm2:.0f} mm²", made="strands", mm2=mm2, overall_mm=overall_mm
    )


def sheet(thick_mm: float, height_mm: float, material: str = "copper") -> Conductor:
    """A sheet as high as the window, wound turn upon turn."""
    return Conductor(
        title=f"{material} sheet {thick_mm:.1f} × {height_mm:.0f} mm",
        made="sheet" if material == "copper" else f"{material} sheet",
        mm2=thick_mm * height_mm,
        overall_mm=thick_mm + SHEET_TAPE_MM,
        material=material,
        thick_mm=thick_mm,
    )


def catalogue() -> list[Conductor]:
    """Every standard conductor, the thinnest first."""
    wires = [
        Conductor(
            title=f"{title} {bare:g} mm",
            made=made,
            mm2=area_mm2(bare),
            overall_mm=overall,
            material=material,
        )
        for title, made, material in WIRES
        for bare, overall in ENAMELLED_MM
    ]
    cables = [
        Conductor(title=f"cable {mm2:g} mm²", made="cable", mm2=mm2, overall_mm=overall)
        for mm2, overall in CABLES_MM
    ]
    welding = [
        Conductor(
            title=f"welding cable {mm2:g} mm²", made="welding cable", mm2=mm2, overall_mm=overall
        )
        for mm2, overall in WELDING_MM
    ]
    return sorted([*wires, *cables, *welding], key=lambda c: c.mm2 * c.metal.derating)


def proved_by_ohms(milliohms: float, metres: float, printed_mm2: float) -> float:
    """Section in mm² that a cable's ohms tell, over the one printed on it: below 0.95 it is thinner
    than it says, or clad aluminium. REF-W-05; mΩ, m, mm².

    >>> round(proved_by_ohms(4.0, 3.0, 16.0), 2)
    0.81
    """
    return METALS["copper"].ohm_m * 1e9 * metres / milliohms / printed_mm2


def bend_fits(conductor: Conductor, tongue_mm: float, stack_mm: float) -> bool:
    """Whether it goes round the tongue: its tightest bend is four overall diameters; corners of a
    former take a quarter of its shorter side. A sheet and strands bend anyhow.
    """
    if conductor.rolled or conductor.made == "strands":
        return True
    return LEAST_BEND * conductor.overall_mm <= 2 * min(tongue_mm, stack_mm)
