"""Out of the donor: what a donor holds, breaks and sheds before a piece is on the bench."""

from greyfell.core.dangers.looked import OLD_WORDS
from greyfell.core.dangers.of_act import TESTER_ACTS
from greyfell.core.dangers.rule import BENCH, CAUTION, HAND, NOTE, TOUCH, Rule
from greyfell.core.dangers.scene import Scene

FILTER_WORDS = (
    r"(?:mains|line|noise|EMI|RFI|interference)[- ](?:filter|suppress)",
    "suppress(?:or|ion)",
    r"x[12]\b",
    r"y[12]\b",
    r"0?[.,][0-5]\d* ?[µμu]f",
    r"\d{2,3} ?nf",
    r"rc snubber",
)
"""How words of a mains filter's capacitor begin: its name, its class, its fractions of a
microfarad. IEC 60384-14."""
OVEN_DONORS = ("oven", "microwave")
DISCHARGING = ("found", "chain", "holding", "held", "short", "proved", "measured", "again", "clip")
"""Acts at the capacitor."""


def _oven(s: Scene) -> bool:
    return s.may_be("magnetron") or s.came_from(*OVEN_DONORS)


RULES = (
    Rule(
        code="flashover",
        ids=("H06",),
        near=HAND,
        severity=CAUTION,
        condition="a capacitor is being emptied",
        headline="One small resistor flashes over.",
        reason="A resistor of a few watts bears 350 to 500 V, whatever its ohms and watts.",
        instead="A string of them for 5 kV and more, proved by ohms before each use.",
        when=lambda s: s.act in DISCHARGING,
    ),
    Rule(
        code="filter-beside",
        ids=("H94",),
        near=HAND,
        severity=CAUTION,
        condition="a filter's capacitor is among its parts, by its name or its microfarads",
        headline="A filter's capacitor sits on the leads.",
        reason="It holds the mains' peak after the plug is out, and reads as a leak.",
        instead="Plug out, empty it through a resistor, meter it; take it off before any ohm.",
        source="IEC 60384-14",
        when=lambda s: s.looks(*FILTER_WORDS),
    ),
    Rule(
        code="one-hand",
        ids=("H07",),
        near=HAND,
        severity=NOTE,
        condition="a capacitor is being emptied or something is live",
        headline="One hand away makes nothing safe.",
        reason="It lowers the chance of a path from hand to hand and no other.",
        instead="Plug out, tools on sticks, distance.",
        when=lambda s: s.act in DISCHARGING or s.high,
    ),
    Rule(
        code="beryllia",
        ids=("H08",),
        near=TOUCH,
        severity=CAUTION,
        condition="an oven, or out of one",
        headline="The tube's ceramic may kill as dust.",
        reason="A magnetron's insulator may be beryllia; broken or ground, its dust scars lungs.",
        instead="Whole into a bag and to the recycling point.",
        when=_oven,
    ),
    Rule(
        code="magnets",
        ids=("H09",),
        near=TOUCH,
        severity=CAUTION,
        condition="an oven, or out of one; a magnetron beside it; magnets are wanted",
        headline="No magnets out of a magnetron.",
        reason="They sit beside the ceramic that must not break, and crush fingers besides.",
        instead="Magnets are bought; the tube stays whole.",
        when=lambda s: _oven(s) or s.used_for("magnetron") or s.looks("magnetron"),
    ),
    Rule(
        code="sharp-edges",
        ids=("H77",),
        near=TOUCH,
        severity=CAUTION,
        condition="an oven, or out of one",
        headline="Behind the diode 4 kV; edges that cut.",
        reason="The wiring past the rectifier stands at twice the winding's peak; sheet edges cut.",
        instead="Insulated pliers even after discharging, gloves for the edges.",
        when=_oven,
    ),
    Rule(
        code="fibre",
        ids=("H78",),
        near=TOUCH,
        severity=CAUTION,
        condition="an oven, grill or cabinet, or words of fibre",
        headline="Fibre inside may be asbestos.",
        reason="Old ovens and grills hold boards and felts that shed fibres when torn.",
        instead="Do not tear or brush it; damp it, mask, bag.",
        when=lambda s: s.came_from(*OVEN_DONORS, "grill") or s.looks("fibre", "felt", "asbestos"),
    ),
    Rule(
        code="aged",
        ids=("H25",),
        near=TOUCH,
        severity=CAUTION,
        condition="dented, cloth-covered, cracked, burnt: words of its look",
        headline="Aged or dented: its insulation is unproved.",
        reason="Cloth, rubber and varnish fail with age where nothing shows; a dent shorts turns.",
        instead="500 V insulation, leakage to the case, and an hour's run behind a limiter first.",
        source="IEC 61558-1 cl. 18, from memory",
        when=lambda s: s.looks(*OLD_WORDS),
    ),
    Rule(
        code="chassis",
        ids=("H79",),
        near=TOUCH,
        severity=CAUTION,
        condition="out of a valve set, or words of a chassis",
        headline="A set's chassis may be live.",
        reason="Sets without a mains transformer tie the chassis to one pole of the line.",
        instead="Meter from chassis to earth before a hand; isolate it, cover it.",
        when=lambda s: s.came_from("valve set", "radio", "television") or s.looks("chassis"),
    ),
    Rule(
        code="filter-capacitors",
        ids=("H37",),
        near=HAND,
        severity=CAUTION,
        condition="out of a set with filter capacitors",
        headline="Filter capacitors of the set first.",
        reason="They keep hundreds of volts while leads are unsoldered.",
        instead="Empty each through its resistor, meter it, leave the clip on.",
        when=lambda s: s.came_from("valve set", "cabinet", "amplifier") or s.act == "cut free",
    ),
    Rule(
        code="oil",
        ids=("H100",),
        near=TOUCH,
        severity=CAUTION,
        condition="potted, oil-filled, or words of oil",
        headline="Old oil and tar may hold PCBs.",
        reason="Potting and oil of before 1986 poison skin and ground.",
        instead="Gloves, a tray, closed; to the collecting point, never heated or cut.",
        when=lambda s: (
            s.looks(r"oil(?:y|ed|-|\b)", "potted", r"tar\b", "askarel") or s.may_be("old_oil")
        ),
    ),
    Rule(
        code="tester-charge",
        ids=("H101",),
        near=HAND,
        severity=CAUTION,
        condition="an insulation test is the act",
        headline="What was tested at 500 V stays charged.",
        reason="Winding and core are a capacitor: an insulation tester charges it.",
        instead="The tester discharges it: leave its leads on until it shows nought.",
        when=lambda s: s.act in TESTER_ACTS,
    ),
    Rule(
        code="alone",
        ids=("H56",),
        near=BENCH,
        severity=CAUTION,
        condition="no piece is told; else its notes say it",
        headline="Not alone.",
        reason="Deaths at this work happen while taking things apart, with nobody near.",
        instead="Somebody near who knows the switch; mains work by local codes, licensed hands.",
        when=lambda s: s.ident is None,
    ),
)
"""What a donor, its age and its dust can do."""
