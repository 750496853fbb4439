"""One engine for everything that can hurt: each situation of the catalogue three times over, what
is told of it in words, thirty harmless ones, single failures, a body between any two points.
"""

import json

import pytest
from click.testing import CliRunner
from msgspec.structs import replace

from greyfell.cli import main
from greyfell.core.bench.demands import DEMANDS
from greyfell.core.chain.elements import parse_rig
from greyfell.core.chain.failing import failed
from greyfell.core.chain.solving import solve
from greyfell.core.dangers import of_bench, of_donor, of_making
from greyfell.core.dangers.contacts import Contact, after_failures, body_amps, contacts
from greyfell.core.dangers.listing import ORDER, dangers, strip
from greyfell.core.dangers.numbers import CATALOGUE
from greyfell.core.dangers.of_act import ACTS as EVERY_ACT
from greyfell.core.dangers.of_piece import stored, unread
from greyfell.core.dangers.own import hazards
from greyfell.core.dangers.rule import GRAVE, MOST_WORDS, NEAR, NOTE, STOP
from greyfell.core.dangers.scene import Scene
from greyfell.core.evidence.parse import parse_record
from greyfell.core.families import sign
from greyfell.core.identify import answer, identify
from greyfell.core.isolation.body import IMPEDANCE, body_ohms, zone
from greyfell.core.judgement.fault import Fault
from greyfell.core.uses.all_uses import USES, use_of
from greyfell.records.demo import demo_documents
from tests.conftest import PLATE, TRUTH, case, every, piece
from tests.core.scenes import SITUATIONS, base, scene_of
from tests.core.test_hazards import BELL
from tests.core.test_rig import BALLAST, RESERVOIR, rig
from tests.core.test_setup import BY_HAND, sound

CASE_NUMBERS = sorted(n.removeprefix("case-").removesuffix(".json") for n in TRUTH)
TABLE = [(id, n) for id, told in SITUATIONS["hazards"].items() for n in range(len(told))]
BY_SCENES = (
    *stored.HELD,
    *unread.RULES,
    *of_bench.RULES,
    *of_donor.RULES,
    *of_making.RULES,
)
"""Rules that the situations of the catalogue are made for; the others have tests of their own."""
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
        assert 0 < len(danger.headline.split()) <= MOST_WORDS
        assert danger.sentence.endswith((".", "!", "?"))
        assert danger.source


def test_every_number_of_the_catalogue_has_three_variations():
    """All ninety-nine, and what was missing; at least three."""
    assert set(SITUATIONS["hazards"]) == set(CATALOGUE)
    assert every(len(told) >= 3 for told in SITUATIONS["hazards"].values())
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


@pytest.mark.parametrize("rule", BY_SCENES, ids=lambda r: f"{r.code} {r.severity}")
def test_no_rule_stands_everywhere_and_each_stands_somewhere(rule):
    """Some situation meets it, some harmless one does not."""
    met = [scene_of(told) for id in rule.ids for told in SITUATIONS["hazards"][id]]
    calm = [scene_of(SITUATIONS["harmless"][n]) for n in (0, 11, 25)]

    assert any(rule.tell(s) for s in met)
    assert not all(rule.tell(s) for s in calm)


def test_every_number_that_is_borne_is_one_of_the_catalogue():
    """And every number of it is borne by some rule."""
    borne = {id for rule in ORDER for id in rule.ids}

    assert borne == set(CATALOGUE)
    assert {f"H{n:02d}" for n in range(1, 103)} == set(CATALOGUE)


def test_the_gravest_come_first_and_of_these_what_is_at_the_hand():
    """No note before a caution, no caution before a stop; of all else the nearest."""
    scene = scene_of({"piece": "oven", "use": "weld-nickel", "act": "first power"})
    found = dangers(scene)
    grave = [GRAVE.index(d.severity) for d in found]
    rest = [d for d in found if d.severity == NOTE]
    near = [NEAR.index(d.near) for d in rest]

    assert grave == sorted(grave)
    assert grave[0] == 0
    assert near == sorted(near)
    assert len(set(near)) > 1


@pytest.mark.parametrize("document", demo_documents(), ids=lambda d: d["tag"])
def test_the_strip_and_the_list_name_the_same_danger_first(document):
    """The strip, the hazards of the answer, the list: one first danger; a stop where one stands. A
    bench with something wrong leads the list and is no hazard of the piece.
    """
    ident = identify(parse_record(document))
    told = dangers(Scene(ident=ident))
    own = hazards(ident)

    assert strip(ident)[0] == told[0]
    assert [d for d in told if d in own] == own
    assert own[0] == (told[0] if not Scene(ident=ident).wrongs else own[0])
    if ident.stop is not None:
        assert told[0].severity == STOP
        assert told[0].reason == ident.stop.sentence
    assert [d.as_hazard() for d in own] == answer(ident)["hazards"]


@pytest.mark.parametrize("number", CASE_NUMBERS)
def test_on_every_public_case_the_first_danger_is_the_same_everywhere(number):
    """No bench is told there: the strip, the answer and the list begin alike."""
    ident = identify(case(number))
    first = dangers(Scene(ident=ident))[0]

    assert strip(ident)[0] == first
    assert answer(ident)["hazards"][0] == first.as_hazard()


def test_the_line_on_an_oven_s_winding_of_kilovolts_leads_the_list():
    """Before magnets, before a capacitor: what is wrong on the bench is what kills next."""
    found = dangers(scene_of({"piece": "oven", "bench": "the output fed with the line"}))

    assert found[0].severity == STOP
    assert found[0].near == "once it is powered"
    assert found[0].code in {demand.code for demand in DEMANDS}


def test_a_stop_of_the_piece_goes_before_what_is_wrong_on_its_bench():
    """Nothing is powered at all: the fault is at the hand, the bench is not."""
    wrong = scene_of({"piece": "oven", "bench": "the output fed with the line"})
    fault = Fault("shorted-to-core", "stop", ("A", "core"), ("r1",), "A conducts to the core.")
    judged = replace(wrong.ident.judgement, faults=(fault,))
    found = dangers(Scene(ident=replace(wrong.ident, judgement=judged)))

    assert found[0].code == "shorted-to-core"
    assert found[1].code in {demand.code for demand in DEMANDS} | {"capacitor-first"}


@pytest.mark.parametrize("demand", DEMANDS, ids=lambda d: d.code)
def test_every_demand_has_a_headline_of_its_own(demand):
    """A sentence of at most ten words; nothing is cut out of another."""
    assert demand.headline.endswith((".", "?"))
    assert len(demand.headline.split()) <= MOST_WORDS
    assert "…" not in demand.headline


@pytest.mark.parametrize("rule", ORDER, ids=lambda r: f"{r.code} {r.severity}")
def test_every_headline_is_short_and_whole(rule):
    """Of at most ten words, ended as a sentence is; none of two rules at once says the same."""
    assert len(rule.headline.split()) <= MOST_WORDS
    assert rule.headline.endswith((".", "?"))
    assert rule.near in NEAR
    assert rule.severity in GRAVE
    same = [r for r in ORDER if r.code == rule.code and r.reason == rule.reason]
    assert len({(r.condition, r.severity) for r in same}) == len(same)


@pytest.mark.parametrize(("amps", "words"), [(0.99, "990 mA"), (1.01, "more than 1 A")])
def test_amps_through_a_body_beyond_one_are_enough(amps, words):
    """Nobody needs the third digit of what kills at once."""
    made = {"one": "A", "two": "core", "volts": 500.0, "zone": "AC-4", "device": "", "known": True}

    assert f" {words} through a body" in Contact(amps=amps, **made).words


@pytest.mark.parametrize("use", [u for u in USES if u.refused], ids=lambda u: u.key)
def test_a_refused_use_is_a_stop_with_its_reason(use):
    """On any piece."""
    ident = identify(parse_record(base("oven")))
    found = dangers(Scene(ident=ident, plan=use.plan()))

    assert any(d.severity == STOP and use.refused.startswith(d.sentence) for d in found)


def test_nothing_is_told_without_anything_but_what_holds_at_every_bench():
    """No piece, no row, no plan."""
    assert {d.code for d in dangers(Scene())} == {"alone", "implant"}


# -------------------------------------------------------------- single failures


@pytest.mark.parametrize("row", BY_HAND, ids=[r[0] for r in BY_HAND])
def test_every_single_failure_of_a_bench_is_a_stop_in_words(row):
    """Made by hand from a sound one."""
    _, tag, spoil, code = row
    document = {**base_of(tag), "setup": spoil(sound(tag)).as_json()}
    found = dangers(Scene(ident=identify(parse_record(document))))

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
    assert every(f.words.endswith(".") for f in of_rows)
    assert any(f.grave for f in of_rows)


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
    assert found["C", "D"].amps > sign.ROW.does.most_amps
    assert plated["C", "D"].amps == sign.ROW.does.most_amps
    assert found["C", "earth"].kills


def test_what_nobody_knows_counts_as_the_worst():
    """No reading at all: kilovolts on every lead, said to be unknown."""
    ident = identify(parse_record(piece("ABC", [])))
    found = contacts(ident)

    assert {c.one for c in found} >= {"A", "B", "C"}
    assert every(c.kills and not c.known for c in found if c.two == "earth" and c.one != "core")
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
    scene = Scene(ident=ident, row=solve(parse_rig(covered)), plan=use_of("rod").plan(), act="ohms")

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
    plain = {d.code for d in dangers(Scene(ident=ident))}

    for act in EVERY_ACT:
        assert plain <= {d.code for d in dangers(replace(Scene(ident=ident), act=act))}


def test_volts_that_nobody_knows_are_told_as_such_to_earth_too():
    """A winding without a supply stated: the worst of its kind, and called unknown."""
    ident = identify(parse_record(piece("ABCD", BELL, nameplate=PLATE)))
    blind = [c for c in contacts(ident) if c.one in ("C", "D")]

    assert every(w.volts is None for w in ident.windings if "C" in w.coil.leads)
    assert blind
    assert not any(c.known for c in blind)
