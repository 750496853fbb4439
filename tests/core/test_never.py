"""What is never planned: wishes and harmless sentences with the same words, figures just below and
just above, and the rigs of the list at the command line and in a kept plan.
"""

import json
import math

import pytest
from click.testing import CliRunner

from greyfell.cli import main
from greyfell.core.chain.elements import parse_rig
from greyfell.core.chain.refusing import never_planned, planned
from greyfell.core.errors import FieldError
from greyfell.core.figures.touch import stores_hazard
from greyfell.core.never import BY_KEY, NEVER, SAID, Asked, asks, refused, wish
from greyfell.core.planner_kit.asking import slots
from greyfell.core.planners.kept_plan import plan_document, rig_document
from greyfell.core.planners.registry import PLANNERS
from tests.core.test_rig import PIECE

WISHES = {
    "body": (
        "make a taser",
        "a cattle prod from this",
        "defibrillator for the shed",
        "muscle stimulator for my arm",
        "electrodes on my skin",
        "shock my brother with it",
        "electric chair prop that really works",
        "defib for the club",
        "prank pen that shocks",
        "humane slaughter of chickens",
    ),
    "water": (
        "electro-fishing in the pond",
        "stun the fish in my lake",
        "shock worms out of the ground",
        "heat the bath water with electrodes",
        "cook hot dogs with nails on the mains",
        "a saltwater dimmer",
        "electric worm probe",
        "electrolysis at 230 V in salt water",
    ),
    "wood-burning": (
        "I want fractal burning",
        "burn lichtenberg figures into plywood",
        "a wood burner with high voltage",
        "burn patterns in oak boards with an oven transformer",
        "dangerous but I want fractal burning",
        "without killing anyone, do fractal burning",
        "pyrography with high voltage",
    ),
    "open-hv": (
        "Jacob's ladder from the microwave transformer",
        "arcs from a MOT",
        "plasma speaker",
        "a bug zapper",
        "no problem: Jacob's ladder",
        "lightning for a show, two metres of sparks",
        "a microwave gun",
    ),
    "arc-furnace": (
        "arc furnace to melt scrap",
        "carbon arc lamp",
        "plasma cutter out of it",
    ),
    "magnetron": (
        "get the magnets out of the magnetron",
        "open the magnetron",
    ),
    "x-ray": (
        "build an x-ray source",
        "kilovolts on a light bulb",
        "a plasma globe",
    ),
    "resonant": (
        "a tesla coil",
        "resonance for more kilovolts",
        "a 40 kV multiplier",
    ),
    "back-feed": (
        "back-feed the house",
        "power the neighbour's shed",
        "a suicide cord for the generator",
        "run my house from the neighbour's supply",
    ),
    "fence": (
        "electric fence for the rabbits",
        "electrify the garden gate",
        "a rat trap that kills",
        "a door handle that shocks burglars",
    ),
    "bank": (
        "coil gun with a capacitor bank",
        "2 kJ coin shrinker",
        "charge a bank of capacitors to 2 kV",
    ),
}
"""What somebody may ask for, by what it is."""
HARMLESS = (
    "never burn wood with this",
    "from a fence energiser",
    "transformer out of a stun gun",
    "taken from an old defibrillator",
    "was part of an electric fence unit",
    "not for fishing: no electrodes in water",
    "12 V charger, nothing with fences",
    "tab welder, never a taser",
    "bench supply, core beside the x-ray cabinet",
    "label says plasma globe",
    "salvaged from a bug zapper",
    "keep away from the pond",
    "wood is not to be burnt with it",
    "why is fractal burning refused?",
    "warn about wood burning with high voltage",
    "a label that forbids back-feeding",
    "2 V for a wood burning pen with a hot wire",
    "soldering iron supply for pyrography on wood",
    "electrolysis rust removal at 12 V",
    "stick welding, arc welding at 60 V",
    "capacitor bank for a spot welder at 20 V",
    "capacitor-discharge welder",
    "light bulb in series as a limiter",
    "a lamp of 100 W in the line",
    "charger for the battery of the electric fence",
    "supply for the valve amplifier, 300 V",
    "neon sign, tube covered, within its plate",
    "isolate the bench from the house mains",
    "protect against shocks",
    "heater for the workshop",
    "magnet from the primary, 24 V DC",
    "what volts does the oven part put out?",
    "fish tank lamp supply 12 V",
    "wooden box for the supply",
    "resonance check of a series capacitor",
    "residual-current device for the house",
    "gate opener supply 24 V",
    "dangers of a Jacob's ladder",
    "no tesla coil",
    "people died of wood burning",
    "a welder for tens of amps",
    "lightning arrester on the mast",
    "a metre of spark plug lead",
    "electric gate motor, 24 V",
    "plug it into the socket",
    "supply for my neighbour's radio",
    "a game with lamps, no shocks",
    "pyrography pen, 2 V 50 A",
)
"""Sentences with the same words in which nobody asks for it."""
WALL = {"volts": 230.0, "hertz": 50.0, "ohms": 0.4}
OVEN = PIECE | {"ratio": 9.1}
SIGN = {**OVEN, "ratio": 10.0, "bond": "middle", "rated_volts": 2300.0}
FREE = {**OVEN, "bond": "none"}
HALF_WAVE = {"kind": "rectifier", "rectifier": "half-wave"}
TUBE = {"kind": "arc", "volts": 900.0, "electrodes": "gas-filled tube"}


def rig(piece, load, *, behind=(), **more):
    """A rig's document from the wall."""
    return {"supply": WALL, "piece": piece, "behind": list(behind), "load": load, **more}


def arc(**figures):
    """An arc in the open, of a piece that is no oven's."""
    return Asked(load="arc", **figures)


# -------------------------------------------------------------------------------- words


@pytest.mark.parametrize(
    ("key", "words"), [(key, words) for key, found in WISHES.items() for words in found]
)
def test_a_wish_is_refused_by_what_it_is(key, words):
    """With why not, what does the job instead, and that nothing is planned."""
    found = wish(words)

    assert found is not None
    assert found.key == key
    assert found.sentence.endswith("Nothing is planned.")


@pytest.mark.parametrize("words", HARMLESS)
def test_a_harmless_sentence_with_the_same_words_refuses_nothing(words):
    """Denied, warned of, where something came from, or another meaning."""
    assert wish(words) is None


def test_the_wishes_are_forty_each_way_and_name_all_of_the_list():
    """As many as were asked for, and no entry without one."""
    assert sum(map(len, WISHES.values())) >= 40
    assert len(HARMLESS) >= 40
    assert set(WISHES) == set(BY_KEY)


def test_every_entry_says_why_what_instead_and_a_source():
    """One declaration each, each key once."""
    assert len(BY_KEY) == len(NEVER)
    for never in NEVER:
        assert never.why.endswith(".")
        assert never.instead.endswith(".")
        assert never.source


@pytest.mark.parametrize(
    ("line", "key"),
    [
        ("can I make a taser of it?", "body"),
        ("I want fractal burning", "wood-burning"),
        ("how do I build a tesla coil", "resonant"),
        ("note: taken from a stun gun", None),
        ("A-B 12V > C-D 200V", None),
    ],
)
def test_a_typed_line_refuses_only_where_it_asks(line, key):
    """A reading or a note is none."""
    found = asks(line)

    assert (found.key if found else None) == key


# ------------------------------------------------------------------------------ figures


@pytest.mark.parametrize(
    ("asked", "key"),
    [
        (arc(open_rms=79.9, open_peak=112.9), None),
        (arc(open_rms=80.1, open_peak=112.9), "arc-furnace"),
        (arc(open_rms=79.9, open_peak=113.1), "arc-furnace"),
        (arc(open_dc=112.9, open_peak=120.0), None),
        (arc(open_dc=113.1), "arc-furnace"),
    ],
)
def test_an_arc_in_the_open_by_the_volts_of_a_welder(asked, key):
    """80 V RMS, 113 V peak, 113 V DC. IEC 60974-1, from memory."""
    found = refused(asked)

    assert (found.key if found else None) == key


@pytest.mark.parametrize(("volts", "stops"), [(599.0, False), (601.0, True)])
def test_an_oven_s_winding_left_open_is_refused_from_six_hundred_volts(volts, stops):
    """And never where it is covered, unless an arc stands on it."""
    bare = Asked(load="open", oven=True, open_rms=volts)
    covered = Asked(load="open", oven=True, open_rms=volts, enclosed=True)

    assert (refused(bare) is not None) == stops
    assert refused(covered) is None
    assert refused(Asked(load="arc", oven=True, open_rms=700.0, enclosed=True)) is not None


@pytest.mark.parametrize(("peak", "key"), [(4990.0, None), (5010.0, "x-ray")])
def test_evacuated_glass_from_five_kilovolts(peak, key):
    """At any load that is none of an arc's; common practice."""
    found = refused(Asked(load="resistor", electrodes="evacuated bulb", open_peak=peak))

    assert (found.key if found else None) == key


@pytest.mark.parametrize(
    ("more", "key"),
    [
        ({}, None),
        ({"within_plate": False}, "arc-furnace"),
        ({"enclosed": False}, "arc-furnace"),
        ({"sign": False}, "arc-furnace"),
        ({"electrodes": "open"}, "arc-furnace"),
    ],
)
def test_a_covered_tube_on_a_sign_part_within_its_plate_stays(more, key):
    """Each of its four conditions."""
    tube = {
        "load": "arc",
        "open_rms": 6000.0,
        "electrodes": "gas-filled tube",
        "sign": True,
        "within_plate": True,
        "enclosed": True,
    }
    found = refused(Asked(**tube | more))

    assert (found.key if found else None) == key


@pytest.mark.parametrize(("times", "volts", "key"), [
    (2.0, 9900.0, None),
    (2.0, 10100.0, "resonant"),
    (4.0, 4900.0, None),
    (4.0, 5100.0, "resonant"),
    (1.0, 12000.0, None),
])  # fmt: skip
def test_volts_are_not_stacked_beyond_five_kilovolts(times, volts, key):
    """One doubler, as ovens have it, up to ten."""
    found = refused(Asked(load="resistor", times=times, open_dc=volts))

    assert (found.key if found else None) == key


@pytest.mark.parametrize(("volts", "joules", "stands"), [
    (99.0, 99.0, False),
    (99.0, 101.0, True),
    (101.0, 0.24, False),
    (101.0, 0.26, True),
    (309.0, 47.7, True),
    (0.0, 0.0, False),
])  # fmt: skip
def test_stored_energy_has_one_threshold(volts, joules, stands):
    """NFPA 70E art. 360, from memory: below 100 V 100 J; here from 100 V on 0.25 J."""
    bank = Asked(load="resistor", held_volts=volts, held_joules=joules)

    assert stores_hazard(volts, joules) == stands
    assert (refused(bank) is not None) == stands


@pytest.mark.parametrize("missing", ["bled", "enclosed", "proved"])
def test_a_bank_wants_bleeder_enclosure_and_proof(missing):
    """All three said; each of them unsaid refuses."""
    said = {"bled": True, "enclosed": True, "proved": True}
    bank = {"load": "resistor", "held_volts": 2000.0, "held_joules": 2000.0}

    assert refused(Asked(**bank, **said)) is None
    found = refused(Asked(**bank, **said | {missing: False}))
    assert found is not None
    assert found.key == "bank"


# ------------------------------------------------------------------------------ rigs


def called(title, volts=230.0):
    """A covered rig whose load is called so."""
    part = {**FREE, "ratio": volts / 230.0, "family": "mains"}
    load = {"kind": "resistor", "ohms": 1e3, "title": title}
    return never_planned(parse_rig(rig(part, load, enclosed=True, proved=True)))


@pytest.mark.parametrize(
    ("title", "key"),
    [
        ("arm", "body"),
        ("my hand", "body"),
        ("a person", "body"),
        ("human body 1 kΩ", "body"),
        ("through wet fingers", "body"),
        ("dog", "body"),
        ("plank", "wood-burning"),
        ("a wet board", "wood-burning"),
        ("bath", "water"),
        ("a bucket of salt water", "water"),
        ("fish", "water"),
        ("the house", "back-feed"),
        ("neighbour's house", "back-feed"),
    ],
)
def test_a_load_is_what_it_is_called(title, key):
    """No word of a wish in it: the thing itself is joined to the winding."""
    found = called(title)

    assert found is not None
    assert found.key == key


@pytest.mark.parametrize(
    "title",
    [
        "hand lamp",
        "hand-held drill",
        "house bell",
        "water heater",
        "fish tank pump",
        "wood stove fan",
        "wooden box lamp",
        "water-cooled resistor, its own case",
        "foot warmer",
        "resistor beside the bath",
        "kitchen mixer",
    ],
)
def test_a_tool_named_after_a_thing_is_not_the_thing(title):
    """It is joined behind its own sheath or case."""
    assert called(title) is None


@pytest.mark.parametrize(
    ("title", "volts", "stands"),
    [("bath", 50.0, False), ("bath", 50.1, True), ("plank", 50.0, False), ("arm", 1.0, True)],
)
def test_wet_and_burning_loads_count_above_what_is_felt_and_bodies_always(title, volts, stands):
    """Rust goes at 12 V. IEC 60364-4-41."""
    assert (called(title, volts) is not None) == stands


@pytest.mark.parametrize(
    ("volts", "more", "stands"),
    [
        (999.0, {}, False),
        (1001.0, {}, True),
        (1001.0, {"family": "mains"}, False),
        (1001.0, {"bond": "middle"}, False),
    ],
)
def test_bare_kilovolts_of_a_piece_that_nobody_names_may_be_an_ovens(volts, more, stands):
    """IEC 60038: high voltage from 1 kV."""
    part = {**FREE, "ratio": volts / 230.0, **more}
    found = never_planned(parse_rig(rig(part, {"kind": "resistor", "ohms": 1e4})))

    assert (found is not None) == stands


@pytest.mark.parametrize(("ohms", "stands"), [(3.12e4, False), (3.14e4, True), (1e9, True)])
def test_a_bleeder_counts_where_it_empties_the_bank_within_a_minute(ohms, stands):
    """1 mF from 340 V, a tenth more than open, to 50 V: ln(6.8) time constants in 60 s. R-T2."""
    part = {**FREE, "ratio": 0.95, "family": "mains"}
    behind = [
        {"kind": "rectifier", "rectifier": "bridge"},
        {"kind": "reservoir", "farads": 1e-3},
        {"kind": "bleeder", "ohms": ohms},
    ]
    load = {"kind": "resistor", "ohms": 1e4}
    said = {"enclosed": True, "proved": True}

    assert (never_planned(parse_rig(rig(part, load, behind=behind, **said))) is not None) == stands


LETHAL = {
    "an oven into an open arc": rig(OVEN, {"kind": "arc", "volts": 900.0}),
    "covered, and an arc all the same": rig(OVEN, {"kind": "arc", "volts": 900.0}, enclosed=True),
    "across wood": rig(OVEN, {"kind": "resistor", "ohms": 9e3, "title": "wood burning"}),
    "nameless, bare": rig(OVEN, {"kind": "resistor", "ohms": 9e3}),
    "into water": rig(OVEN, {"kind": "resistor", "ohms": 9e3, "title": "electrodes in water"}),
    "through a person": rig(
        FREE, {"kind": "resistor", "ohms": 1e3}, title="muscle stimulator", enclosed=True
    ),
    "a defibrillator": rig(
        FREE,
        {"kind": "resistor", "ohms": 50.0},
        behind=[HALF_WAVE, {"kind": "reservoir", "farads": 3e-5}],
        title="defibrillator",
    ),
    "forty kilovolts": rig(
        FREE,
        {"kind": "resistor", "ohms": 1e8},
        behind=[
            {
                "kind": "rectifier",
                "rectifier": "multiplier",
                "stages": 6,
                "stage_farads": 1e-9,
            }
        ],
        enclosed=True,
    ),
    "two kilojoules": rig(
        FREE,
        {"kind": "open"},
        behind=[HALF_WAVE, {"kind": "reservoir", "farads": 5e-4}],
        enclosed=True,
    ),
    "a load is no bleeder": rig(
        FREE,
        {"kind": "resistor", "ohms": 1e4},
        behind=[HALF_WAVE, {"kind": "reservoir", "farads": 1e-6}],
        enclosed=True,
        proved=True,
    ),
    "a tube on an oven": rig(OVEN, TUBE, enclosed=True),
    "a sign's tube in the open": rig(SIGN, TUBE),
    "a sign's part beyond its plate": rig({**SIGN, "rated_volts": 2000.0}, TUBE, enclosed=True),
    "resonance": rig(
        OVEN,
        {"kind": "open"},
        behind=[{"kind": "capacitor", "farads": 2e-6}],
        enclosed=True,
    ),
    "a bulb": rig(
        {**FREE, "ratio": 20.0},
        {"kind": "arc", "volts": 3e3, "electrodes": "evacuated bulb"},
        enclosed=True,
    ),
    "a fence": rig(FREE, {"kind": "open", "title": "electric fence"}, enclosed=True),
    "back into the house": rig(FREE, {"kind": "open"}, title="back-feed the house", enclosed=True),
}
SOUND = {
    "an oven through nothing, covered": rig(OVEN, {"kind": "open"}, enclosed=True),
    "a sign's tube, covered": rig(SIGN, TUBE, enclosed=True),
    "valves, bled, covered, proved": rig(
        {**FREE, "ratio": 1.2},
        {"kind": "resistor", "ohms": 3e3},
        behind=[
            HALF_WAVE,
            {"kind": "reservoir", "farads": 4.7e-5},
            {"kind": "bleeder", "ohms": 1e5},
        ],
        enclosed=True,
        proved=True,
    ),
    "a stick welder": rig(
        {**FREE, "ratio": 0.3, "secondary_ohms": 0.05, "leakage_henries": 1e-3},
        {"kind": "arc", "volts": 24.0},
    ),
    "twelve volts": rig({**FREE, "ratio": 0.05}, {"kind": "resistor", "ohms": 10.0}),
    "named after where it came from": rig(
        {**FREE, "ratio": 0.05}, {"kind": "open"}, title="part from a fence energiser"
    ),
}


@pytest.mark.parametrize("name", LETHAL)
def test_a_lethal_rig_is_neither_solved_nor_kept_nor_printed(name, tmp_path):
    """In the core, as a kept plan, at the command line, with and without its netlist."""
    document = LETHAL[name]
    file = tmp_path / "rig.json"
    file.write_text(json.dumps({"format": "greyfell.rig/1", **document}), encoding="utf-8")
    with pytest.raises(FieldError, match="planned"):
        planned(parse_rig(document))
    with pytest.raises(FieldError, match="planned"):
        rig_document(document, model=None)

    for more in ([], ["--failures"], ["--netlist"]):
        run = CliRunner().invoke(main, ["rig", str(file), *more])
        assert run.exit_code == 2
        assert "planned" in run.output
        assert "joints" not in run.output


@pytest.mark.parametrize("name", SOUND)
def test_a_sound_rig_is_worked_out(name):
    """With what must be said of it said."""
    assert never_planned(parse_rig(SOUND[name])) is None
    assert planned(parse_rig(SOUND[name])).load.volts >= 0


@pytest.mark.parametrize(("over", "stops"), [(1.09, False), (1.11, True)])
def test_a_tube_is_within_its_plate_to_a_tenth(over, stops):
    """Mains wander so far. IEC 60038."""
    piece = {**SIGN, "rated_volts": 230.0 * SIGN["ratio"] / over}

    assert (never_planned(parse_rig(rig(piece, TUBE, enclosed=True))) is not None) == stops


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"enclosed": "yes"}, "enclosed"),
        ({"proved": 1}, "proved"),
        ({"piece": {**OVEN, "family": 3}}, "piece.family"),
        ({"piece": {**OVEN, "family": "x" * 300}}, "piece.family"),
        ({"piece": {**OVEN, "family": "toaster"}}, "piece.family"),
        ({"load": {"kind": "arc", "volts": 20.0, "electrodes": "wood"}}, "load.electrodes"),
    ],
)
def test_a_bad_word_of_the_new_keys_is_answered_by_its_name(change, field):
    """A sentence that names the field."""
    with pytest.raises(FieldError) as told:
        parse_rig(rig(OVEN, {"kind": "open"}) | change)

    assert told.value.field == field


# ------------------------------------------------------------------------------ plans


def test_a_plan_s_title_is_a_wish():
    """Refused by its words; a title that says where the piece came from is none."""
    planner = PLANNERS["dc_supply"]
    with pytest.raises(FieldError, match="stop a heart"):
        plan_document(planner, planner.example, known=None, title="taser for the shed")

    kept = plan_document(planner, planner.example, known=None, title="part of a stun gun, 12 V")
    assert kept["title"] == "part of a stun gun, 12 V"


@pytest.mark.parametrize(
    ("name", "given"),
    [
        ("dc_supply", {"winding_volts": 230.0, "load_amps": 0.1, "reservoir_farads": 1e-3}),
        ("dc_routes", {"winding_volts": 2000.0, "bond": "an end"}),
        (
            "valve_supply",
            {"side_volts": 300.0, "load_amps": 0.1, "side_ohms": 100.0, "reservoir_farads": 4e-5},
        ),
        (
            "pulse_weld",
            {"bank_farads": 10.0, "bank_volts": 10.0, "bank_ohms": 2e-3, "loop_ohms": 2e-3},
        ),
    ],
)
def test_a_plan_that_stores_is_refused_until_all_is_said(name, given):
    """Bleeder where it is not its own, cover, proof."""
    planner = PLANNERS[name]
    keys = set(SAID) & {s.key for s in slots(planner.given)}
    bare = planner(given)
    whole = planner(given | dict.fromkeys(keys, True))

    assert {"enclosed", "proved"} <= keys
    assert bare["refused"]
    assert any(w["code"] == "never-bank" for w in bare["warnings"])
    assert not whole.get("refused")


def test_a_stack_of_stages_is_refused_in_a_plan_too():
    """Six stages on two kilovolts, all else said."""
    given = {
        "winding_volts": 2000.0,
        "load_amps": 1e-5,
        "rectifier": "multiplier",
        "stages": 6,
        "reservoir_farads": 1e-9,
        "source_resistance_ohms": 100.0,
        "enclosed": True,
        "proved": True,
    }
    found = PLANNERS["dc_supply"](given)

    assert next(w["code"] for w in found["warnings"]) == "never-resonant"
    assert found["open_volts"]["value"] > math.sqrt(2) * 2000.0
