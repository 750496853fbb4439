"""Cutting, winding and using: what a planned change, a use and its act can do."""

from collections.abc import Callable

from greyfell.core.dangers.rule import CAUTION, HAND, NOTE, PLAN, STOP, Rule
from greyfell.core.dangers.scene import Scene
from greyfell.core.figures.limits import HIGH_VOLTAGE

HOT_JOINTS = ("weld", "solder", "rod", "anneal", "stick")
"""Uses at whose electrodes metal glows."""
AMPS = ("weld", "solder", "rod", "anneal", "stick", "magnet", "staple")
"""Uses of hundreds of amps, or whose loop heats."""
CUTTING = ("cut", "grind", "drill", "split")


GROUND_WORDS = (
    r"(?:angle[- ])?grind",
    "cutting dis[ck]",
    "cut-?off (?:wheel|tool|dis)",
    "rotary tool",
    "flap dis[ck]",
    r"saw(?:ed|n|ing)\b",
    r"(?:hack|jig|band)[- ]?saw",
    "sanded",
    "sander",
)
"""How words begin of what throws sparks and dust."""
BULB_WORDS = (
    "x-?ray",
    "crookes",
    r"plasma (?:bulb|globe|ball|lamp|lantern)",
    "evacuated",
    r"(?:light|vacuum|incandescent) ?bulb",
)
"""How words begin of evacuated glass on high voltage."""


def _cuts(s: Scene) -> bool:
    return _works(*CUTTING)(s)


def _plan(s: Scene) -> bool:
    return s.plan is not None


def _works(*keys: str) -> Callable[[Scene], bool]:
    """Whether any of these works is planned."""
    return lambda s: s.plan is not None and s.plan.has(*keys)


RULES = (
    Rule(
        code="hammering",
        ids=("H17",),
        near=PLAN,
        severity=CAUTION,
        condition="a coil is driven, pressed or split out",
        headline="Blows near the primary break it unseen.",
        reason="A drift that slips, or swarf driven in, ends at the mains winding.",
        instead="Card between, goggles on, swarf brushed out; then core and ohms are read again.",
        when=_works("drive", "press", "split", "shunts"),
    ),
    Rule(
        code="dust",
        ids=("H18",),
        near=PLAN,
        severity=CAUTION,
        condition="a coil is cut, ground or drilled, in the work planned or as it was told",
        headline="Grinder: sparks, dust, a winding beside.",
        reason="Sparks melt enamel and light what burns; enamel dust is for no lung.",
        instead="Eyes and lungs covered, the coil that stays masked, nothing burning near.",
        when=lambda s: _cuts(s) or s.looks(*GROUND_WORDS),
    ),
    Rule(
        code="hot-loop",
        ids=("H19", "H50"),
        near=PLAN,
        severity=CAUTION,
        condition="a use of hundreds of amps",
        headline="Few volts, hundreds of amps: it burns.",
        reason="A ring or tool across the loop glows at once; the primary beside it is mains.",
        instead="No rings, no watch; loop insulated, primary covered.",
        when=lambda s: s.used_for(*AMPS),
    ),
    Rule(
        code="cable-duty",
        ids=("H21",),
        near=PLAN,
        severity=CAUTION,
        condition="a conductor is planned for a use of amps",
        headline="Cable melts where its duty is passed.",
        reason="{name} bears {limit} °C: beyond its seconds its insulation runs off and shorts.",
        instead="Seconds and rests by the plan “shots and rests”, felt with the plug out.",
        when=lambda s: (
            [
                {
                    "name": s.plan.conductor.name,
                    "limit": f"{s.plan.conductor.limit_celsius:.0f}",
                }
            ]
            if s.plan is not None and s.plan.conductor is not None and s.used_for(*AMPS)
            else []
        ),
        source="IEC 60502, from memory",
    ),
    Rule(
        code="plug-as-switch",
        ids=("H22", "H55"),
        near=PLAN,
        severity=CAUTION,
        condition="a use in shots",
        headline="A foot switch, not the plug, not one push.",
        reason="A plug drawn under load arcs; a one-pole push switch welds shut on inrush.",
        instead="A contactor of two poles behind a foot switch, twice the amps.",
        when=lambda s: _plan(s) and s.used_for("weld", "rod", "solder", "anneal"),
    ),
    Rule(
        code="spatter",
        ids=("H24",),
        near=PLAN,
        severity=CAUTION,
        condition="welding or heating metal",
        headline="Spatter, fume, zinc.",
        reason="Metal is thrown out hot; zinc and cadmium smoke gives fever or worse.",
        instead="Eyes and hands covered, air moving; nothing galvanised or plated.",
        when=lambda s: s.used_for(*HOT_JOINTS),
    ),
    Rule(
        code="joint-fire",
        ids=("H48",),
        near=PLAN,
        severity=CAUTION,
        condition="welding or heating metal",
        headline="No wood or plastic at a hot joint.",
        reason="A joint of a few hundred microohms glows before the work does.",
        instead="Heat-proof spacer, a fire watch of half an hour.",
        when=lambda s: s.used_for(*HOT_JOINTS),
    ),
    Rule(
        code="sheet-edge",
        ids=("H46",),
        near=PLAN,
        severity=CAUTION,
        condition="sheet or bar is wound",
        headline="Sheet edges cut enamel towards the mains.",
        reason="A burr past the primary joins the line to the electrode.",
        instead="Edges rounded and taped; 500 V to the primary after it; the turn earthed.",
        when=lambda s: (
            s.plan is not None and s.plan.conductor is not None and s.plan.conductor.rolled
        ),
    ),
    Rule(
        code="added-turns",
        ids=("H74",),
        near=PLAN,
        severity=CAUTION,
        condition="turns are added to a primary",
        headline="Added primary turns are mains wiring.",
        reason="Hook-up wire of 300 V and no class is no mains insulation at 100 °C.",
        instead="Wire of the mains' class, sleeved ends, 500 V to the core and all else.",
        when=lambda s: (
            (s.plan is not None and s.plan.added_turns)
            or (
                s.ident is not None
                and any(c.what == "primary-turns-added" for c in s.ident.record.changes)
            )
        ),
    ),
    Rule(
        code="glued-core",
        ids=("H75",),
        near=PLAN,
        severity=NOTE,
        condition="a core is split or glued",
        headline="A glued core opens when it is hot.",
        reason="Epoxy softens, the core buzzes, the gap lets magnetising amps rise.",
        instead="A clamping frame besides; amps at no load before and after an hour.",
        when=lambda s: s.plan is not None and (s.plan.joint == "epoxy" or s.plan.has("split")),
    ),
    Rule(
        code="earth-core",
        ids=("H54",),
        near=PLAN,
        severity=CAUTION,
        condition="anything is built",
        headline="Core to earth, fuse in the primary.",
        reason="A first fault makes bare laminations live, and nothing opens.",
        instead="Earth lug on the iron, fuse of its own amps, two-pole switch.",
        when=_plan,
        source="IEC 61140",
    ),
    Rule(
        code="own-fuse",
        ids=("H47", "H76"),
        near=PLAN,
        severity=CAUTION,
        condition="anything is built",
        headline="The house's breaker does not guard it.",
        reason="Sixteen amps through a piece of two never open it; half a primary on the whole "
        "line doubles the flux.",
        instead="A fuse by its volt-amperes; volts per hertz before power.",
        when=_plan,
    ),
    Rule(
        code="magnet",
        ids=("H52", "H36"),
        near=PLAN,
        severity=CAUTION,
        condition="an electromagnet",
        headline="A magnet kicks when it is opened.",
        reason="Its field returns as hundreds of volts at the switch; left on it cooks itself.",
        instead="Diode across it, amps by what it bears for hours, feel it.",
        when=lambda s: s.used_for("magnet"),
    ),
    Rule(
        code="charger",
        ids=("H53", "H95"),
        near=PLAN,
        severity=CAUTION,
        condition="charging a battery",
        headline="A battery drives hundreds of amps back.",
        reason="Unregulated peaks are 1.414 times the volts; a shorted lead burns, gas explodes.",
        instead="Fuse at the battery, regulated volts, air, spectacles.",
        when=lambda s: s.used_for("charge") or _battery(s),
    ),
    Rule(
        code="carbon-arc",
        ids=("H51",),
        near=PLAN,
        severity=STOP,
        condition="a row that ends in an arc of few volts",
        headline="Carbon arc: blinding, and carbon monoxide.",
        reason="Its ultraviolet burns eyes in seconds; in a closed pot it gives carbon monoxide.",
        instead="Not planned here: filter of shade 12, air, and a supply made for it.",
        when=lambda s: _arcs(s, high=False),
    ),
    Rule(
        code="stick-arc",
        ids=("H24", "H50"),
        near=PLAN,
        severity=CAUTION,
        condition="stick welding",
        headline="Shade 10, dry gloves, no bare skin.",
        reason="An arc blinds and burns like sun; the open volts shock a wet hand.",
        instead="Helmet, gloves, screens for others.",
        when=lambda s: s.used_for("stick"),
    ),
    Rule(
        code="salt-arc",
        ids=("H72",),
        near=PLAN,
        severity=CAUTION,
        condition="an arc in the open",
        headline="Ozone, fume, spatter from an arc.",
        reason="Salts and metals on an arc spit and smoke; ozone stings lungs.",
        instead="Air moving away from the face; nothing is put into an arc.",
        when=lambda s: s.used_for("open-hv", "arc-furnace") or _arcs(s, high=True),
    ),
    Rule(
        code="long-arc",
        ids=("H73",),
        near=PLAN,
        severity=CAUTION,
        condition="an arc or a short for long",
        headline="Arcing for long cooks the winding.",
        reason="A leaky part gives its shorted amps into an arc: copper warms by their square.",
        instead="Seconds by its temperature; ohms hot against cold tell it.",
        when=lambda s: s.row_has("arc", "short") or s.used_for("open-hv"),
    ),
    Rule(
        code="x-rays",
        ids=("H96",),
        near=PLAN,
        severity=CAUTION,
        condition="words of evacuated glass",
        headline="Above 5 kV a bulb gives X-rays.",
        reason="Any evacuated glass on high voltage may: nobody sees or feels them.",
        instead="Not offered.",
        when=lambda s: s.looks(*BULB_WORDS),
    ),
    Rule(
        code="back-to-back",
        ids=("H14",),
        near=PLAN,
        severity=STOP,
        condition="isolation out of oven parts",
        headline="Two oven parts isolate nothing.",
        reason="Back to back a cable carries 2 kV, both cores are its return, and one barrier "
        "stands to the mains.",
        instead="Computed and explained, no wiring: a part marked to IEC 61558-2-4 is bought.",
        when=lambda s: (
            s.used_for("one-to-one", "step", "back-to-back") and s.may_be("exposed_never")
        ),
        source="IEC 61558-2-4, from memory",
    ),
    Rule(
        code="shown-floating",
        ids=("H26",),
        near=PLAN,
        severity=STOP,
        condition="an isolated output",
        headline="Never touched to show that it floats.",
        reason="Its own capacitance and one forgotten fault carry what kills.",
        instead="A meter through 2 kΩ shows it; no hand does.",
        when=lambda s: s.used_for("one-to-one", "step") or s.act == "leakage",
    ),
    Rule(
        code="hot-parts",
        ids=("H102",),
        near=HAND,
        severity=NOTE,
        condition="after power, or shots",
        headline="Lamp, core and lugs burn fingers.",
        reason="A 100 W lamp has 250 °C, a shorted winding's lug more.",
        instead="Wait, or gloves; never in the dark.",
        when=lambda s: s.act.startswith(("first power", "shorted", "no load")) or s.used_for(*AMPS),
    ),
)
"""What building and using it can do."""


def _arcs(s: Scene, *, high: bool) -> bool:
    """Whether the row ends in an arc, of kilovolts or of few."""
    if s.row is None or not s.row_has("arc"):
        return False
    piece = s.row.rig.piece
    return (piece.get("volts") * piece.get("ratio") > HIGH_VOLTAGE) is high


def _battery(s: Scene) -> bool:
    return s.row_has("battery")
