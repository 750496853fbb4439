"""One engine for everything that can hurt: each situation of the catalogue three times over, what
is told of it in words, thirty harmless ones, single failures, a body between any two points.
"""

import json

import pytest
from click.testing import CliRunner
from msgspec.structs import replace

from greyfell.cli import main
from greyfell.core.danger import scene as danger_scene
from greyfell.core.danger.catalogue import ACTS, CATALOGUE, FAULTED, HANDLED, ROW, STRIP
from greyfell.core.danger.contacts import SIGN_AMPS, Contact, after_failures, body_amps, contacts
from greyfell.core.danger.gather import RULES, dangers, headline, led_by
from greyfell.core.danger.scene import Plan, Scene
from greyfell.core.danger.told import GRAVE, MOST_WORDS, NEAR, STOP
from greyfell.core.evidence.parse import parse_record
from greyfell.core.guidance.cautions import ACTS as EVERY_ACT
from greyfell.core.identify import identify
from greyfell.core.isolation.body import IMPEDANCE, body_ohms, zone
from greyfell.core.judgement.faults import RULES as FAULT_RULES
from greyfell.core.judgement.handling import HANDLING
from greyfell.core.judgement.hazards.find import RULES as STRIP_RULES
from greyfell.core.rig.row.elements import parse_rig
from greyfell.core.rig.row.failing import failed
from greyfell.core.rig.row.solving import solve
from greyfell.core.rig.row.speaking import RULES as ROW_RULES
from greyfell.core.uses.every import USES, use_of
from greyfell.records.demo import demo_documents
from tests.conftest import PLATE, piece
from tests.core.scenes import SITUATIONS, base, scene_of
from tests.core.test_hazards import BELL
from tests.core.test_rig import BALLAST, RESERVOIR, rig
from tests.core.test_setup import BY_HAND, sound

TABLE = [(id, n) for id, told in SITUATIONS["hazards"].items() for n in range(len(told))]
BLEEDER = {"kind": "bleeder", "ohms": 1e6}
HALF_WAVE = {"kind": "rectifier", "rectifier": "half-wave", "diode_volts": 8.0}


def told_of(scene, id):
    """Everything told of a scene that meets a number of the catalogue."""
    return [d for d in dangers(scene) if id in d.ids]


# ------------------------------------------------------------------ situations


@pytest.mark.parametrize(("id", "n"), TABLE, ids=[f"{id}-{n}" for id, n in TABLE])
def test_every_situation_is_told_in_words(id, n):
    """A headline of at most ten words, a reason that is a sentence, a source."""
    found = told_of(scene_of(SITUATIONS["hazards"][id][n]), id)

    assert found, f"{id} is not told: {CATALOGUE[id]}"
    for danger in found:
        assert 0 < len(danger.headline.rstrip("…").split()) <= MOST_WORDS
        assert danger.sentence.endswith((".", "!", "?"))
        assert danger.source


def test_every_number_of_the_catalogue_has_three_variations():
    """All ninety-nine, and what was missing; at least three."""
    assert set(SITUATIONS["hazards"]) == set(CATALOGUE)
    assert all(len(told) >= 3 for told in SITUATIONS["hazards"].values())
    assert {f"H{n:02d}" for n in range(1, 100)} < set(CATALOGUE)


@pytest.mark.parametrize("n", range(len(SITUATIONS["harmless"])))
def test_what_is_harmless_is_not_shouted_at(n):
    """No stop, and no more cautions than a tired person reads."""
    found = dangers(scene_of(SITUATIONS["harmless"][n]))

    assert [d.code for d in found if d.severity == STOP] == []
    assert len([d for d in found if d.severity == GRAVE[1]]) <= 8


def test_thirty_scenes_are_harmless():
    """Each another."""
    assert len({json.dumps(x, sort_keys=True) for x in SITUATIONS["harmless"]}) == 30


@pytest.mark.parametrize("rule", RULES, ids=lambda r: r.code)
def test_no_rule_stands_everywhere_and_each_stands_somewhere(rule):
    """Some situation meets it, some harmless one does not."""
    met = [scene_of(told) for id in rule.ids for told in SITUATIONS["hazards"][id]]
    calm = [scene_of(SITUATIONS["harmless"][n]) for n in (0, 11, 25)]

    assert any(rule.tell(s) for s in met)
    assert not all(rule.tell(s) for s in calm)


def test_every_number_that_is_borne_is_one_of_the_catalogue():
    """And every code that is given numbers is declared somewhere."""
    tables = (STRIP, ROW, HANDLED, FAULTED, ACTS)
    borne = {id for table in tables for ids in table.values() for id in ids}
    borne |= {id for r in RULES for id in r.ids}
    strip = {r.code for r in STRIP_RULES}

    assert borne <= set(CATALOGUE)
    assert set(STRIP) == strip
    assert set(ROW) <= {r.code for r in ROW_RULES}
    assert set(HANDLED) <= {h.code for h in HANDLING}
    assert FAULT_RULES


def test_the_nearest_to_the_hand_comes_first():
    """By how near, of those by how grave, behind what leads."""
    scene = scene_of({"piece": "oven", "use": "weld-nickel", "act": "first power"})
    found, leads = dangers(scene), led_by(scene)
    order = [(NEAR.index(d.near), GRAVE.index(d.severity)) for d in found[len(leads) :]]

    assert found[: len(leads)] == leads
    assert order == sorted(order)
    assert order[0][0] == 0


@pytest.mark.parametrize("document", demo_documents(), ids=lambda d: d["tag"])
def test_strip_and_page_name_the_same_danger_first(document):
    """A stop where one stands, whatever the family does; else the gravest. Without its bench, whose
    own wrongs go before.
    """
    ident = identify(parse_record({**document, "setup": None}))
    first = dangers(Scene(ident))[0]

    if ident.stop is not None:
        assert ident.hazards[0].code == "stopped"
        assert first.severity == STOP
        assert ident.hazards[0].what == first.reason
    else:
        assert first.code == ident.hazards[0].code


def test_the_line_on_an_oven_s_winding_of_kilovolts_leads_the_list():
    """Before magnets, before a capacitor: what is wrong on the bench is what kills next."""
    found = dangers(scene_of({"piece": "oven", "bench": "the output fed with the line"}))

    assert found[0].severity == STOP
    assert found[0].near == "once it is powered"


@pytest.mark.parametrize(("amps", "words"), [(0.99, "990 mA"), (1.01, "more than 1 A")])
def test_amps_through_a_body_beyond_one_are_enough(amps, words):
    """Nobody needs the third digit of what kills at once."""
    made = {"one": "A", "two": "core", "volts": 500.0, "zone": "AC-4", "device": "", "known": True}

    assert f" {words} through a body" in Contact(amps=amps, **made).words


@pytest.mark.parametrize("use", [u for u in USES if u.refused], ids=lambda u: u.key)
def test_a_refused_use_is_a_stop_with_its_reason(use):
    """On any piece."""
    ident = identify(parse_record(base("oven")))
    found = dangers(Scene(ident, None, Plan(use=use)))

    assert any(d.severity == STOP and d.reason == use.refused for d in found)


def test_nothing_is_told_without_anything_but_what_holds_at_every_bench():
    """No piece, no row, no plan."""
    assert {d.code for d in dangers(Scene())} == {"alone", "implant"}


def test_a_sentence_is_cut_to_a_headline_at_a_word():
    """Ten words, and a mark that there is more."""
    assert headline("Plug out and in sight.") == "Plug out and in sight."
    assert headline(" ".join(["word"] * 11)).split() == ["word"] * 10 + ["…"]


# -------------------------------------------------------------- single failures


@pytest.mark.parametrize("row", BY_HAND, ids=[r[0] for r in BY_HAND])
def test_every_single_failure_of_a_bench_is_a_stop_in_words(row):
    """Made by hand from a sound one."""
    _, tag, spoil, code = row
    document = {**base_of(tag), "setup": spoil(sound(tag)).as_json()}
    found = dangers(Scene(identify(parse_record(document))))

    assert any(d.code == code and d.severity == STOP for d in found)


def base_of(tag):
    """A piece of the demo by its tag."""
    from greyfell.records.demo import demo_documents

    return next(d for d in demo_documents() if d["tag"] == tag)


def test_the_single_failures_are_more_than_thirty():
    """Of the bench, and of three rows."""
    rows = (
        rig(ahead=[BALLAST], load={"kind": "short"}),
        rig(behind=[HALF_WAVE, RESERVOIR, BLEEDER]),
    )
    of_rows = [f for made in rows for f in failed(solve(made))]

    assert len(BY_HAND) >= 30
    assert len(of_rows) >= 8
    assert all(f.words.endswith(".") for f in of_rows)
    assert any(f.grave for f in of_rows)


@pytest.mark.parametrize(("amps", "burns"), [(199.0, False), (201.0, True)])
def test_an_output_burns_above_two_hundred_amps(monkeypatch, amps, burns):
    """Of any winding; without a piece there is none."""
    monkeypatch.setattr(danger_scene, "short_amps", lambda winding, primary: amps)

    assert Scene(identify(parse_record(piece("ABCD", BELL)))).burning == burns
    assert not Scene().burning


def test_a_shorted_limiter_is_told_before_it_fails():
    """With the row, and not without a limiter."""
    limited = Scene(row=solve(rig(ahead=[BALLAST], load={"kind": "short"})))
    bare = Scene(row=solve(rig()))

    assert told_of(limited, "H99")
    assert not told_of(bare, "H99")


@pytest.mark.parametrize(("joules", "stands"), [(0.26, True), (0.24, False)])
def test_a_reservoir_is_told_from_a_quarter_of_a_joule(joules, stands):
    """At its own peak, some 2.9 kV, those are about 60 nF. NFPA 70E art. 360."""
    near = solve(rig(behind=[HALF_WAVE, {"kind": "reservoir", "farads": 6e-8}, BLEEDER]))
    farads = 2 * joules / near.load.peak_volts**2
    row = solve(rig(behind=[HALF_WAVE, {"kind": "reservoir", "farads": farads}, BLEEDER]))

    assert bool([d for d in dangers(Scene(row=row)) if d.code == "stored"]) == stands


@pytest.mark.parametrize(("peak", "stands"), [(101.0, True), (99.0, False)])
def test_a_reservoir_of_some_joules_is_told_from_a_hundred_volts(peak, stands):
    """1 mF are some 5 J: a hazard from 100 V on, below it 100 J are. NFPA 70E art. 360."""
    behind = [HALF_WAVE, {"kind": "reservoir", "farads": 1e-3}]
    supply = 230.0
    for _ in range(6):
        row = solve(rig(behind=behind, volts=supply))
        supply *= peak / row.load.peak_volts

    assert row.load.peak_volts == pytest.approx(peak, abs=0.9)
    assert bool([d for d in dangers(Scene(row=row)) if d.code == "stored"]) == stands


@pytest.mark.parametrize(("volts", "high"), [(999.0, False), (1001.0, True)])
def test_an_arc_is_one_of_high_voltage_above_a_kilovolt(volts, high):
    """IEC 60038; of fewer volts it is a furnace's."""
    piece = {**rig().piece.as_json(), "volts": 230.0, "ratio": volts / 230.0}
    document = {
        "supply": {"volts": 230.0, "hertz": 50.0},
        "piece": piece,
        "load": {"kind": "arc", "volts": 30.0},
    }
    found = {d.code for d in dangers(Scene(row=solve(parse_rig(document))))}

    assert found & {"salt-arc", "carbon-arc"} == {"salt-arc" if high else "carbon-arc"}


@pytest.mark.parametrize(("volts", "stands"), [(262.0, True), (240.0, False)])
def test_volts_per_hertz_are_told_above_a_tenth_too_many(volts, stands):
    """230 V at 50 Hz rated: 253 V is the edge."""
    document = {"supply": {"volts": volts, "hertz": 50.0}, "piece": rig().piece.as_json()}
    found = dangers(Scene(row=solve(parse_rig(document))))

    assert bool([d for d in found if d.code == "over-flux"]) == stands


# ------------------------------------------------------- a body between two points


@pytest.mark.parametrize("row", IMPEDANCE, ids=lambda r: f"{r[0]:g} V")
def test_a_body_has_the_ohms_of_the_table(row):
    """IEC 60479-1 table 1 at every printed row; amps by the lowest of twenty people."""
    volts, low, middle, high = row

    assert body_ohms(volts) == (low, middle, high)
    assert body_amps(volts) == pytest.approx(volts / low)


def test_every_pair_of_a_bell_part_is_told_with_its_zone():
    """Line to line and line to earth kill; a low side, and the bonded core, do not."""
    ident = identify(parse_record(base("bell")))
    found = {(c.one, c.two): c for c in contacts(ident)}

    assert found["A", "B"].kills
    assert found["A", "earth"].device.startswith("opens")
    assert found["A", "B"].device.startswith("sees nothing")
    assert not found["C", "D"].kills
    assert found["core", "earth"].zone == "AC-2"
    assert found["A", "B"].zone == zone(body_amps(found["A", "B"].volts), 10.0)


def test_half_of_a_sign_to_its_core_and_no_more_amps_than_it_gives():
    """The whole from end to end, half to the iron; amps of its leakage."""
    found = {(c.one, c.two): c for c in contacts(identify(parse_record(base("sign"))))}
    plated = {(c.one, c.two): c for c in contacts(identify(parse_record(base_of("CQ-009"))))}

    assert found["C", "core"].volts == pytest.approx(0.55 * found["C", "D"].volts, rel=0.01)
    assert found["C", "D"].amps > SIGN_AMPS
    assert plated["C", "D"].amps == SIGN_AMPS
    assert found["C", "earth"].kills


def test_what_nobody_knows_counts_as_the_worst():
    """No reading at all: kilovolts on every lead, said to be unknown."""
    ident = identify(parse_record(piece("ABC", [])))
    found = contacts(ident)

    assert {c.one for c in found} >= {"A", "B", "C"}
    assert all(c.kills and not c.known for c in found if c.two == "earth" and c.one != "core")
    assert "may be" in found[0].words


def test_after_one_failure_the_core_of_an_oven_kills_and_no_device_sees_it():
    """The bond off: all of its HV; a barrier broken: the line, which a device sees."""
    ident = identify(parse_record(base("oven")))
    found = {c.after: c for c in after_failures(ident)}
    off = found["the core's wire to earth comes off"]

    assert off.kills
    assert off.device == "sees nothing"
    assert off.volts == max(c.volts for c in contacts(ident))
    assert any(c.device == "opens at 30 mA" for c in found.values())


# -------------------------------------------------------------- told everywhere alike


def test_the_command_line_tells_the_same(tmp_path):
    """As JSON: dangers, contacts, failures; with a use, an act, a row."""
    file, row = tmp_path / "oven.json", tmp_path / "row.json"
    file.write_text(json.dumps(base("oven")), encoding="utf-8")
    covered = {**rig(ahead=[BALLAST]).as_json(), "enclosed": True}
    row.write_text(json.dumps(covered), encoding="utf-8")
    run = CliRunner().invoke(
        main, ["dangers", str(file), "--use", "rod", "--act", "ohms", "--rig", str(row)]
    )
    said = json.loads(run.output)
    ident = identify(parse_record(base("oven")))
    scene = Scene(ident, solve(parse_rig(covered)), Plan(use=use_of("rod")), "ohms")

    assert run.exit_code == 0
    assert said["dangers"] == [d.as_json() for d in dangers(scene)]
    assert len(said["contacts"]) == len(contacts(ident))


@pytest.mark.parametrize(("option", "field"), [("--use", "A use is one of"), ("--act", "An act")])
def test_a_use_or_an_act_that_is_none_is_refused_by_name(tmp_path, option, field):
    """With those there are."""
    file = tmp_path / "bell.json"
    file.write_text(json.dumps(piece("ABCD", BELL)), encoding="utf-8")
    run = CliRunner().invoke(main, ["dangers", str(file), option, "nonsense"])

    assert run.exit_code != 0
    assert field in run.output


def test_every_act_of_a_step_may_be_asked_for():
    """And changes nothing of what stands anyhow."""
    ident = identify(parse_record(piece("ABCD", BELL, nameplate=PLATE)))
    plain = {d.code for d in dangers(Scene(ident))}

    for act in EVERY_ACT:
        assert plain <= {d.code for d in dangers(replace(Scene(ident), act=act))}


def test_volts_that_nobody_knows_are_told_as_such_to_earth_too():
    """A winding without a supply stated: the worst of its kind, and called unknown."""
    ident = identify(parse_record(piece("ABCD", BELL, nameplate=PLATE)))
    blind = [c for c in contacts(ident) if c.one in ("C", "D")]

    assert all(w.volts is None for w in ident.windings if "C" in w.coil.leads)
    assert blind
    assert not any(c.known for c in blind)
