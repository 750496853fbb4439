"""Drawings as placed shapes: everything inside the frame, no label on another, what is known where
it belongs.
"""

import itertools

import pytest

from greyfell.core.circuit.sweep import SweepPoint, sweep_of
from greyfell.core.evidence.parse import parse_record
from greyfell.core.figures.notation import percent
from greyfell.core.figures.quantity import exact
from greyfell.core.identify import identify
from greyfell.core.planners.registry import PLANNERS
from greyfell.core.steps.next_step import next_steps
from greyfell.core.steps.pairs import fan_of
from greyfell.core.steps.summary import sketch
from greyfell.core.telling.usual_ranges import bands
from greyfell.records.demo import demo_documents
from greyfell.web.drawings.bands import at, band_marks
from greyfell.web.drawings.fan import fan
from greyfell.web.drawings.hookup import hookup
from greyfell.web.drawings.iron import iron, stacked
from greyfell.web.drawings.marks import colour_class, mark_of
from greyfell.web.drawings.plans import DRAWINGS, drawing_of
from greyfell.web.drawings.plans.phasors import phasors
from greyfell.web.drawings.plans.window import window
from greyfell.web.drawings.ridge import ridge, walked
from greyfell.web.drawings.shapes import spread
from greyfell.web.drawings.sweep import sweep_drawing
from greyfell.web.drawings.tag import small_iron
from tests.conftest import OVEN, TRUTH, case, every, piece

DEMO = {d["tag"]: d for d in demo_documents()}


def judged(document):
    """A record and what follows from it."""
    record = parse_record(document)
    return record, identify(record)


def wound(turns, **more):
    """A rewind of so many turns, planned."""
    planner = PLANNERS["rewind"]
    told = {"supply_volts": 230, "volts_per_turn": 1, "target_volts": turns}
    return planner.plan(planner.read({**told, **more}))


def every_text(drawing):
    """Texts with the box they take, roughly: 7.4 units a letter at 13, anchored as said."""
    out = []
    for s in drawing.shapes:
        for p in (s, *s.parts):
            if p.element == "text":
                size = 12.5 if "t-small" in str(p.attrs["class"]) else 14.0
                wide = (
                    len(p.text)
                    * size
                    * (
                        0.6
                        if "mono" in str(p.attrs["class"]) or "ring" in str(p.attrs["class"])
                        else 0.5
                    )
                )
                x = (
                    float(p.attrs["x"])
                    - {"start": 0, "middle": wide / 2, "end": wide}[p.attrs["text-anchor"]]
                )
                out.append((p.text, x, float(p.attrs["y"]) - size * 0.72, wide, size * 0.78))
    return out


@pytest.mark.parametrize("tag", sorted(DEMO))
def test_labels_of_the_iron_do_not_collide(tag):
    """No text on another, none outside the frame."""
    _record, ident = judged(DEMO[tag])
    drawing = iron(ident, next_steps(ident)[0])
    texts = every_text(drawing)

    for n, (a, x, y, w, h) in enumerate(texts):
        assert x >= -8, a
        assert x + w <= drawing.width + 12, a
        assert y >= 0, a
        assert y + h <= drawing.height + 8, a
        for b, x2, y2, w2, h2 in texts[n + 1 :]:
            apart = x + w <= x2 + 2 or x2 + w2 <= x + 2 or y + h <= y2 + 1 or y2 + h2 <= y + 1
            assert apart, f"{a!r} on {b!r}"


@pytest.mark.parametrize("number", [k[5:8] for k in TRUTH])
def test_every_lead_has_its_ring(number):
    """Placed or floating, each lead can be clicked, and so can the core."""
    record = case(number)
    ident = identify(record)
    rings = {s.lead for s in iron(ident).shapes if s.lead}

    assert rings >= {x.id for x in record.leads} - set(ident.topology.core_leads) | {"core"}


def test_coils_stack_in_the_order_they_sit():
    """Upper coil on top, primary at the bottom, by what was seen."""
    _record, ident = judged(DEMO["CQ-014"])

    assert [w.role for w in stacked(ident)] == ["hv-secondary", "filament", "primary"]


def test_what_is_unknown_floats_loose():
    """A new piece: dotted core, all leads floating."""
    _record, ident = judged(piece("ABC"))
    drawing = iron(ident)

    assert any("core-unknown" in str(s.attrs.get("class")) for s in drawing.shapes)
    assert "not yet placed" in drawing.texts()


@pytest.mark.parametrize(
    ("tag", "words"),
    [
        ("CQ-014", "bonded"),
        ("CQ-009", "bonded mid"),
        ("CQ-026", "to the core"),
        ("CQ-014", "shunts in"),
    ],
)
def test_bonds_and_shorts_are_drawn_where_they_are(tag, words):
    """In words beside the mark."""
    assert words in iron(judged(DEMO[tag])[1]).texts()


@pytest.mark.parametrize("tag", ["CQ-026", "CQ-041", "CQ-010"])
def test_a_stop_is_crossed_out(tag):
    """On the iron and on the shelf's small iron."""
    _record, ident = judged(DEMO[tag])

    assert any(s.attrs.get("class") == "fault-cross" for s in iron(ident).shapes)
    assert any(s.attrs.get("class") == "fault-cross" for s in small_iron(sketch(ident), tag).shapes)


def test_the_next_readings_points_are_marked():
    """The two rings the next step asks for."""
    _record, ident = judged(DEMO["CQ-014"])
    drawing = iron(ident, next_steps(ident)[0])
    wanted = {
        s.lead
        for s in drawing.shapes
        if s.lead and any("ring-wanted" in str(p.attrs["class"]) for p in s.parts)
    }

    assert wanted == {"A", "core"}


def test_the_ridge_shows_where_you_are():
    """Nine stations, the present one ringed, each with its link."""
    record, _ident = judged(DEMO["CQ-014"])
    drawing = ridge(record, "cold")
    stations = [s for s in drawing.shapes if s.element == "g"]

    assert len(stations) == 9
    assert walked(record) == {"salvage", "clues", "cold"}
    assert sum("station-here" in str(s.parts[0].attrs["class"]) for s in stations) == 1
    assert every(s.link for s in stations)


def test_bands_place_readings_on_one_scale():
    """Logarithmic from 10 mΩ to 100 MΩ, open at the end."""
    assert at(0.01) < at(1.0) < at(1e6) < at(float("inf"))
    assert at(10) - at(1) == pytest.approx(at(1e6) - at(1e5))
    _record, ident = judged(piece("ABCDE", OVEN, supply={"volts": 230, "hertz": 50}))
    for band in bands(ident):
        assert band_marks(band).shapes[-1].element == "line"


@pytest.mark.parametrize("tag", sorted(DEMO))
def test_hook_ups_name_the_points(tag):
    """The drawing of a step shows the points of the step."""
    _record, ident = judged(DEMO[tag])
    for step in next_steps(ident):
        drawing = hookup(step)
        if drawing is not None and step.leads:
            names = {("Fe" if p == "core" else p) for pair in step.leads.values() for p in pair}
            assert names <= set(drawing.texts())


def test_every_measuring_step_has_its_hook_up():
    """Of every demo piece, whatever is measured is drawn; each point once at least."""
    kinds = set()
    for document in DEMO.values():
        _record, ident = judged(document)
        for step in next_steps(ident):
            if step.leads:
                kinds.add(step.kind)
                assert hookup(step) is not None, step.kind

    assert {"resistance", "ratio", "inductance", "test_turn", "dc_drop", "polarity"} <= kinds


@pytest.mark.parametrize("turns", [1, 3, 6, 7, 12, 13, 24, 25, 400])
def test_each_turn_passes_both_windows(turns):
    """As many circles left as right, inside the windows."""
    drawing = window(wound(turns, tongue_mm=38, window_width_mm=19, window_height_mm=57), None)
    copper = [float(s.attrs["cx"]) for s in drawing.shapes if s.attrs.get("class") == "turn-copper"]
    windows = [
        (float(s.attrs["x"]), float(s.attrs["x"]) + float(s.attrs["width"]))
        for s in drawing.shapes
        if s.attrs.get("class") == "window"
    ]

    assert len(copper) == 2 * min(turns, 24)
    assert (
        sum(windows[0][0] <= x <= windows[0][1] for x in copper)
        == sum(windows[1][0] <= x <= windows[1][1] for x in copper)
        == len(copper) // 2
    )
    assert "iron to scale" in drawing.desc
    assert "not to scale" in window(wound(turns), None).desc


def test_phasors_are_to_scale():
    """The supply's arrow is as long as the vector sum of the drops."""
    told = {"supply_volts": 230.0, "supply_hertz": 50.0, "limit_amps": 8.0}
    source = {"source_resistance_ohms": 4.0, "source_reactance_ohms": 12.0}
    planner = PLANNERS["ballast"]
    plan = planner.plan(planner.read({**told, **source}))
    drawing = phasors(plan, None)
    reactance = 12.0 + plan.found.reactance_ohms.value
    tips = {
        s.attrs["class"].split()[-1]: s.attrs["d"]
        for s in drawing.shapes
        if "phasor-tip" in str(s.attrs["class"])
    }

    def tip(name):
        x, y = tips[name][1:].split("L")[0].split()
        return float(x), float(y)

    (sx, sy), (rx, _), (_, by) = tip("phasor-supply-tip"), tip("phasor-r-tip"), tip("phasor-xb-tip")
    assert sx == pytest.approx(rx, abs=0.2)
    assert sy == pytest.approx(by, abs=0.2)
    assert (rx - 60) / (350 - sy) == pytest.approx(4.0 / reactance, rel=0.02)


@pytest.mark.parametrize("name", sorted(PLANNERS))
def test_every_planner_is_drawn_or_said_to_be_plain(name):
    """A drawing inside its frame for each that has one; none for a planner there is not."""
    planner = PLANNERS[name]
    drawing = drawing_of(planner, planner.plan(planner.read(planner.example)), None)

    assert (drawing is None) == (name not in DRAWINGS)
    assert set(DRAWINGS) <= set(PLANNERS)
    for words, x, y, wide, high in every_text(drawing) if drawing else ():
        assert -2 <= x <= drawing.width + 8 - wide, words
        assert 0 <= y <= drawing.height - high, words


def test_turns_that_do_not_fit_are_not_drawn_as_if_they_did():
    """74 turns wanted, 16 fit: the others are drawn outside of the window, and it is said."""
    told = {"window_width_mm": 22, "window_height_mm": 66, "tongue_mm": 38, "former_mm": 0}
    cable = {"area_mm2": 20, "overall_mm": 8}
    drawing = window(wound(74, conductor=cable, **told), None)
    inside = [s for s in drawing.shapes if s.attrs.get("class") == "turn-skin"]
    out = [s for s in drawing.shapes if s.attrs.get("class") == "turn-out"]
    windows = [s.attrs for s in drawing.shapes if s.attrs.get("class") == "window"]

    assert (len(inside), len(out)) == (2 * 16, 2 * 58)
    for s in out:
        assert not any(w["x"] < s.attrs["cx"] < w["x"] + w["width"] for w in windows), (
            "a turn that does not fit lies in a window"
        )
    assert any("do not fit: the window takes 16" in t for t in drawing.texts())


def test_rings_keep_their_distance():
    """Places as near as may be, in order, apart."""
    places = spread([10, 11, 12, 200], 30, 0, 210)

    assert every(b - a >= 30 - 1e-9 for a, b in itertools.pairwise(places))
    assert places[-1] <= 210


def test_marks_and_colours_never_rest_on_colour_alone():
    """Measured, worked out, assumed by basis; unknown colours share a class; nothing is certain."""
    assert [mark_of(exact(1, b)) for b in ("supply", "ratio r1", "ohms r1")] == [
        "measured",
        "worked",
        "assumed",
    ]
    assert colour_class("dark red") == "lead-red"
    assert colour_class("plaid") == colour_class(None) == "lead-none"
    assert [percent(p) for p in (0.0, 0.004, 0.5, 0.999, 1.0)] == [
        "under 1 %",
        "under 1 %",
        "50 %",
        "over 99 %",
        "over 99 %",
    ]


@pytest.mark.parametrize("count", [1, 2, 5, 11, 20, 21])
def test_the_fan_is_drawn_while_its_cells_can_be_touched(count):
    """From two leads to twenty: every cell at least 24 units wide, each a link that begins its
    line; no drawing for fewer or more.
    """
    leads = [chr(ord("A") + n) for n in range(count)]
    record = parse_record(piece(leads, [("A", "B", 1.3)] if count > 1 else []))
    ident = identify(record)
    found = fan_of(ident, bands(ident), next_steps(ident))
    drawing = fan(found, record.leads)

    assert (drawing is None) == (count not in (2, 5, 11, 20))
    if drawing is not None:
        cells = [s for s in drawing.shapes if s.element == "g"]
        assert len(cells) == (count + 1) * count // 2
        assert every(c.link and c.label and c.lead.endswith(" ") for c in cells)
        assert min(p.attrs["width"] for c in cells for p in c.parts if p.element == "rect") >= 22


def test_a_sweep_shows_its_knees_the_supply_and_what_does_not_belong():
    """Named where they stand; the bad point crossed out and told to be read again."""
    steps = [
        SweepPoint(volts=v, amps=1e-3 * v + (v / 200) ** 12, reading=f"r{v}")
        for v in range(40, 280, 20)
    ]
    steps[5] = SweepPoint(volts=140, amps=1.6, reading="r140")
    drawing = sweep_drawing(sweep_of(steps), 230.0)
    texts = drawing.texts()

    assert any(t.startswith("onset 15") for t in texts)
    assert any(t.startswith("steep 1") for t in texts)
    assert "supply" in texts
    assert "r140: read again" in texts
    assert drawing.title.startswith("Onset of the knee at")


def test_a_sweep_without_a_knee_says_what_it_lies_above():
    """Straight iron: the title says so."""
    steps = [SweepPoint(volts=v, amps=v / 100) for v in range(40, 280, 20)]

    assert sweep_drawing(sweep_of(steps), 230.0).title == "No knee below 236 V"
