"""Rigs and kept plans on the page: built, changed, kept, measured against, held side by side, out
and in again; and what a bad one is answered with.
"""

import csv
import html
import io
import json
import re
from urllib.parse import parse_qs, urlsplit

import pytest
from click.testing import CliRunner

from greyfell.cli import main
from greyfell.core.chain.elements import KINDS, parse_rig
from greyfell.core.chain.solving import in_time
from greyfell.core.figures.notation import engineering
from greyfell.core.planners.kept_plan import (
    FORMAT,
    changed,
    figures_of,
    parse_plan,
    plan_document,
    rig_document,
)
from greyfell.core.planners.registry import PLANNERS
from greyfell.records.demo_rigs import RIGS
from greyfell.records.plans import Plans
from greyfell.records.repository import Repository
from tests.conftest import OVEN, piece

LAMP = (
    "s.volts=230&s.hertz=50&s.ohms=0.4&s.breaker_amps=16&a1.kind=lamp&a1.watts=100&p.volts=230"
    "&p.hertz=50&p.ratio=9&p.primary_ohms=1.6&p.secondary_ohms=110&p.leakage_henries=45m"
    "&p.idle_amps=1.5&p.core_watts=60&p.bond=end&l.kind=open&title=through a lamp&r.enclosed=yes"
)

CAPACITOR = {"b1.kind": "capacitor"}


def page(response):
    """The text of a page."""
    return response.get_data(as_text=True)


def plans(client):
    """The kept plans of a client's shelf."""
    return Plans(client.app.extensions["store"])


def test_a_rig_is_drawn_solved_and_says_what_fails(client):
    """From its address: the lamp, the lethal joints, each failure."""
    shown = page(client.get(f"/rigs/edit?{LAMP}&whole=yes"))

    assert "Lethal to touch" in shown
    assert "lamp shorted" in shown
    assert "the core&#39;s bond off" in shown or "the core's bond off" in shown
    assert 'value="45m"' in shown


def test_meters_are_told_in_time_an_averaging_one_low_on_iron_s_amps(client):
    """Idle iron straight on the mains: true RMS and the mean's reading differ; phasors hide it."""
    args = dict(x.split("=") for x in LAMP.split("&")) | {"a1.kind": "", "p.straight": "0.1"}
    shown = page(client.get("/rigs/edit", query_string={**args, "whole": "yes"}))
    table = shown[shown.index("What meters show") :]
    cells = re.findall(r"<td>([\d.]+ m?A)</td>", table[: table.index("</tr>", 1500)])
    row = parse_rig(json.loads(page(client.get("/rigs/rig.json", query_string=args))))
    told = in_time(row).line

    assert told.averaging_amps < 0.9 * told.amps
    assert {engineering(told.amps, "A"), engineering(told.averaging_amps, "A")} <= set(cells)


@pytest.mark.parametrize("headers", [{}, {"X-Greyfell": "part"}], ids=["page", "part"])
def test_failures_follow_the_row(client, headers):
    """First the row alone; the script asks for the rest, a person without one takes the link, and
    no address besides carries that wish.
    """
    shown = page(client.get(f"/rigs/edit?{LAMP}", headers=headers))
    (more,) = re.findall(r'href="(\?[^"]*whole=yes)"', shown)
    rest = page(client.get("/rigs/edit" + html.unescape(more), headers=headers))

    assert "Lethal to touch" in shown
    assert "If one thing fails" not in shown
    assert shown.count("data-later") == 2
    assert "If one thing fails" in rest
    assert "What meters show" in rest
    assert "data-later" not in rest
    assert re.findall(r'href="[^"]*whole=yes', rest) == []


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ("&a1.watts=x", "watts"),
        ("&a1.watts=", "needs its watts"),
        ("&p.ratio=-1", "must be above 0"),
        ("&a2.kind=bridge", "cannot stand ahead"),
        ("&b1.kind=rectifier&b1.rectifier=centre-tap", "middle at the core"),
        ("&l.kind=battery&l.volts=12", "charged by a rectifier"),
    ],
)
def test_a_bad_rig_is_said_and_keeps_what_was_typed(client, change, words):
    """422, the sentence, the form as it was."""
    args = dict(x.split("=") for x in f"{LAMP}{change}".split("&"))
    response = client.get("/rigs/edit", query_string=args)

    assert response.status_code == 422
    assert words in page(response)
    assert 'value="1.6"' in page(response)


@pytest.mark.parametrize("where", ["a2", "b1", "l"])
def test_every_kind_that_is_put_in_begins_with_figures(client, where):
    """One choice, and the row is solved or says why not; no box is left without."""
    place = {"a2": "ahead", "b1": "behind", "l": "load"}[where]
    for kind in (k for k in KINDS.values() if place in k.where):
        args = dict(x.split("=") for x in LAMP.split("&")) | {f"{where}.kind": kind.key}
        shown = page(client.get("/rigs/edit", query_string=args))
        assert "needs its" not in shown, kind.key


def test_a_rig_is_refused_with_its_figures(client):
    """A capacitor near resonance at low volts: refused, still drawn."""
    args = dict(x.split("=") for x in LAMP.split("&")) | {"p.ratio": "0.1", "a1.kind": ""}
    args |= {"p.secondary_ohms": "0.5"}
    shown = page(client.get("/rigs/edit", query_string=args | CAPACITOR | {"b1.farads": "20m"}))

    assert "Refused." in shown
    assert "multiplies volts" in shown
    assert "<svg" in shown


def test_resonance_for_kilovolts_is_never_worked_out(client):
    """The same behind a winding of kilovolts: why not, the row as drawn, no figure of it."""
    args = dict(x.split("=") for x in LAMP.split("&")) | {"a1.kind": ""}
    answer = client.get("/rigs/edit", query_string=args | CAPACITOR | {"b1.farads": "2u"})
    shown = page(answer)

    assert answer.status_code == 422
    assert "More kilovolts by resonance" in shown
    assert "If one thing fails" not in shown
    assert 'value="2u"' in shown


def test_a_rig_begins_from_a_piece_and_from_the_stores(demo):
    """The model fills the piece; an entry of the stores becomes an element ahead."""
    bare = demo.get("/rigs/edit?piece=CQ-018")
    shown = page(demo.get("/rigs/edit?piece=CQ-018&r.enclosed=yes"))
    offered = re.findall(r'class="chip" href="([^"]*a1\.kind=[^"]*)"', shown)

    assert bare.status_code == 200
    assert "behind a cover that opens its switch" in page(bare)
    assert "around" in shown
    assert offered
    told = parse_qs(urlsplit(offered[0].replace("&amp;", "&")).query)
    assert told["p.tag"] == ["CQ-018"]
    assert demo.get(offered[0].replace("&amp;", "&")).status_code == 200


def test_exports_hold_the_rig(client):
    """Netlist, table of every curve, open format."""
    cir = page(client.get(f"/rigs/rig.cir?{LAMP}"))
    rows = list(csv.reader(io.StringIO(page(client.get(f"/rigs/rig.csv?{LAMP}")))))
    document = json.loads(page(client.get(f"/rigs/rig.json?{LAMP}")))

    assert cir.startswith("* through a lamp")
    assert len(rows) == 401
    assert rows[0][0] == "s"
    assert parse_rig(document).title == "through a lamp"
    assert client.get("/rigs/rig.cir?s.volts=x").status_code == 422


def test_a_rig_s_file_is_opened_as_its_address(client):
    """There and back; a file that is none is said."""
    text = page(client.get(f"/rigs/rig.json?{LAMP}"))
    opened = client.post("/rigs/open", {"file": (io.BytesIO(text.encode()), "rig.json")})
    bad = client.post("/rigs/open", {"file": (io.BytesIO(b"{"), "rig.json")})
    none = client.post("/rigs/open", {"file": (io.BytesIO(b'{"format": "x"}'), "rig.json")})

    assert opened.status_code == 302
    assert "a1.watts=100" in opened.headers["Location"]
    assert bad.status_code == none.status_code == 422
    assert "no JSON" in page(bad)


def test_a_rig_is_kept_measured_against_and_held_beside_another(client):
    """Kept once however often it is sent; a figure inside its range agrees, another does not."""
    for _ in range(2):
        client.post("/rigs", {"query": LAMP, "once": "k1"})
    client.post("/rigs", {"query": LAMP.replace("watts=100", "watts=500")})
    kept = plans(client).all()
    assert len(kept) == 2
    uid = kept[1]["id"]

    amps = next(a for a in kept[1]["result"]["joints"] if a["after"] == "supply")["amps"]
    client.post(f"/kept/{uid}", {"figure": "supply.amps", "value": f"{amps:.4g}A"})
    client.post(f"/kept/{uid}", {"figure": "supply.amps", "value": f"{2 * amps:.4g}A"})
    shown = page(client.get(f"/kept/{uid}"))

    assert "agrees" in shown
    assert "does not" in shown
    both = page(client.get(f"/rigs/compare?one={uid}&two={kept[0]['id']}"))
    assert "What differs" in both
    assert client.get("/rigs/compare?one=x&two=y").status_code == 404


@pytest.mark.parametrize(
    ("form", "status"),
    [
        ({"planner": "ballast", "query": "limit_amps=x"}, 422),
        ({"planner": "nope", "query": "a=1"}, 404),
        ({"planner": "ballast", "query": "&".join(f"a{n}=1" for n in range(600))}, 422),
        ({"planner": "ballast", "query": "a" * 9000}, 422),
        ({"planner": "ballast", "query": "piece=NOPE&limit_amps=3"}, 404),
    ],
)
def test_a_plan_that_cannot_be_kept_says_why_and_nothing_is(client, form, status):
    """A figure that is none, no such planner, too many boxes, too long, no such piece."""
    assert client.post("/kept", form).status_code == status
    assert plans(client).all() == []


@pytest.mark.parametrize(
    ("form", "words"),
    [
        ({"figure": "nothing", "value": "3"}, "Choose the figure"),
        ({"figure": "supply.amps", "value": "many"}, "Measured"),
    ],
)
def test_a_bad_measurement_is_refused_and_nothing_kept(client, form, words):
    """422 with its sentence."""
    client.post("/rigs", {"query": LAMP})
    uid = plans(client).all()[0]["id"]
    response = client.post(f"/kept/{uid}", form)

    assert response.status_code == 422
    assert words in page(response)
    assert plans(client).get(uid)["measured"] == []


def test_a_plan_is_kept_with_its_piece_and_goes_stale_by_new_evidence(bench):
    """Another reading changes what filled it, and the page says what."""
    bench.get("/pieces/T-1/?at=record")
    query = "piece=T-1&sent=yes&limit_amps=3&supply_volts=230&supply_hertz=50"
    bench.post("/kept", {"planner": "ballast", "query": query, "title": "for the oven"})
    kept = plans(bench).all(tag="T-1")[0]
    fresh = page(bench.get(f"/kept/{kept['id']}"))

    assert kept["format"] == FORMAT
    assert kept["title"] == "for the oven"
    assert "Stale." not in fresh
    line = "AB 10V 1.2A 6W short CD"
    stored = bench.post("/pieces/T-1/jot", {"line": "A-B 10V 1.2A 6W short D-core"})
    assert stored.status_code in (200, 302), line
    stale = page(bench.get(f"/kept/{kept['id']}"))
    assert "for the oven" in page(bench.get("/plans/"))
    assert "for the oven" in page(bench.get("/pieces/T-1/?at=record"))
    assert "Stale." in stale
    assert "Source r" in stale


def test_a_plan_stays_with_a_piece_that_gets_another_tag(bench):
    """The old tag finds it no more, the new one does."""
    query = "piece=T-1&sent=yes&limit_amps=3&supply_volts=230&supply_hertz=50"
    bench.post("/kept", {"planner": "ballast", "query": query})
    bench.post("/pieces/T-1/rename", {"tag": "T-9"})

    assert plans(bench).all(tag="T-1") == []
    assert plans(bench).all(tag="T-9")[0]["tag"] == "T-9"


def test_other_rules_make_every_plan_stale():
    """The core's version is put down with it."""
    document = rig_document(RIGS[0], model=None, at="2026-01-01T00:00:00Z")

    assert changed(document, None) == []
    assert changed({**document, "core_version": "1"}, None)[0].key == "core_version"


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"format": "x"}, "format"),
        ({"planner": "magic"}, "planner"),
        ({"input": []}, "input"),
        ({"input": {"supply": {}}}, "supply.volts"),
        ({"title": 3}, "title"),
        ({"measured": [{"key": "a", "value": "b"}]}, "measured.0.value"),
        ({"measured": [3]}, "measured.0"),
        ({"measured": {}}, "measured"),
        ({"starts": []}, "starts"),
    ],
)
def test_a_kept_plan_that_cannot_be_read_is_refused(change, field):
    """By its field."""
    document = {**rig_document(RIGS[0], model=None), **change}
    with pytest.raises(ValueError, match=r".") as told:
        parse_plan(document)
    assert told.value.field == field


def test_plans_travel_with_the_archive(demo, tmp_path):
    """Out with the shelf, in again on another; what is there already stays."""
    data = demo.get("/archive.zip").get_data()
    path = tmp_path / "shelf.zip"
    path.write_bytes(data)
    folder = tmp_path / "other"
    runner = CliRunner()
    first = runner.invoke(main, ["import", str(path), "--data", str(folder)])
    again = runner.invoke(main, ["import", str(path), "--data", str(folder)])

    assert "(5 new, " in first.output
    assert "5 here already" in again.output


def test_the_command_line_solves_the_same_rig(tmp_path, client):
    """Page, JSON and command line give one number."""
    document = json.loads(page(client.get(f"/rigs/rig.json?{LAMP}")))
    path = tmp_path / "rig.json"
    path.write_text(json.dumps(document))
    runner = CliRunner()
    told = json.loads(runner.invoke(main, ["rig", str(path), "--failures"]).output)
    cir = runner.invoke(main, ["rig", str(path), "--netlist"]).output
    client.post("/rigs", {"query": LAMP})

    assert told["joints"] == plans(client).all()[0]["result"]["joints"]
    assert {f["at"] for f in told["failures"]} == {"a1", "load", "bond"}
    assert cir.startswith("* through a lamp")
    path.write_text("{}")
    assert runner.invoke(main, ["rig", str(path)]).exit_code == 2


def test_the_sheet_has_its_steps_and_stops(client):
    """Wind-up from a tenth, a stop at 1.3 times, every failure."""
    shown = page(client.get(f"/rigs/sheet?{LAMP}"))

    assert "Wind-up" in shown
    assert shown.count("<tr>") > 8
    assert "licensed electrician come before" in shown


def test_the_model_stands_at_its_station_and_says_what_it_wants(demo):
    """With an output: circuit, what would tell most, every figure's basis; without one, why not."""
    shown = page(demo.get("/pieces/CQ-018/?at=model&load=0.5"))
    Repository(demo.app.extensions["store"]).add(piece("AB", OVEN[:1]))
    bare = page(demo.get("/pieces/T-1/?at=model"))

    assert "Equivalent circuit" in shown
    assert "What would tell most" in shown
    assert "assumed: kind" in shown
    assert "is as hot as it may be after" in shown
    assert "not known" in bare or "No primary" in bare


def test_the_model_s_copper_is_as_warm_as_is_said(demo):
    """Ohms at 70 °C; what is no number is day's temperature."""
    cold = page(demo.get("/pieces/CQ-018/?at=model"))
    warm = page(demo.get("/pieces/CQ-018/?at=model&celsius=70"))
    odd = page(demo.get("/pieces/CQ-018/?at=model&celsius=warm"))

    assert "2.30 Ω" in cold
    assert "2.75 Ω" in warm
    assert "2.30 Ω" in odd
    assert 'value="20"' in odd


def test_switched_on_at_the_crest_with_no_remanence_is_gentler(demo):
    """The peak told at switching on, at the worst moment and at the best."""

    def peak(query):
        text = page(demo.get(f"/rigs/edit?piece=CQ-018&r.enclosed=yes&whole=yes{query}"))
        found = re.search(r"switched on: ([0-9.]+) (m?A)", text)
        return float(found[1]) * (1e-3 if found[2] == "mA" else 1.0)

    worst, gentle = peak(""), peak("&on.degrees=90&on.remanence=0")

    assert gentle < 0.3 * worst
    assert peak("&on.degrees=never") == worst


@pytest.mark.parametrize("load", ["nan", "x", "1e9", "-7", ""])
def test_a_load_that_is_none_is_held_at_an_end(demo, load):
    """Whatever stands in the address."""
    assert demo.get(f"/pieces/CQ-018/?at=model&load={load}").status_code == 200


def test_first_power_of_a_direct_supply_is_walked_step_by_step(demo):
    """Behind each step the next; a figure outside stops with its sentence and keeps nothing; a low
    supply is not walked.
    """
    shown = page(demo.get("/kept/pdemo4"))
    assert "Read the bond" in shown
    assert "Read the bleeder" not in shown

    bad = demo.post("/kept/pdemo4/walk", {"step": "bond", "value": "0.3"})
    assert bad.status_code == 422
    assert "Stop here" in page(bad)
    skipped = demo.post("/kept/pdemo4/walk", {"step": "power", "value": "400"})
    assert skipped.status_code == 422
    assert not plans(demo).get("pdemo4").get("walk")

    demo.post("/kept/pdemo4/walk", {"step": "bond", "value": "0.04"})
    after = page(demo.get("/kept/pdemo4"))
    assert "Read the bleeder" in after
    assert "done, 40.0 mΩ" in after
    assert "Read the bond" not in page(demo.get("/kept/pdemo3"))
    assert demo.post("/kept/pdemo3/walk", {"step": "bond", "value": "0.05"}).status_code == 422


@pytest.mark.parametrize("name", ["discharge", "rewind", "pulse_weld", "two_primaries"])
def test_a_kept_plan_is_measured_in_any_unit_it_offers(client, name):
    """Joules, newtons, metres, A/mm², A²s, per cent: each figure of the page takes its own."""
    document = plan_document(PLANNERS[name], dict(PLANNERS[name].example), known=None)
    uid = plans(client).add(document)
    figures = figures_of(plans(client).get(uid))
    for key, _, unit, _ in figures:
        sent = client.post(f"/kept/{uid}", {"figure": key, "value": f"3 {unit}"})
        assert sent.status_code == 302, (key, unit)

    shown = page(client.get(f"/kept/{uid}"))
    assert "Measured" in shown
    assert len(plans(client).get(uid)["measured"]) == len(figures) > 1


@pytest.mark.parametrize("straight", ["0", "0.5", "1"])
@pytest.mark.parametrize("address", ["edit", "sheet", "rig.cir", "rig.csv"])
def test_iron_of_any_straight_share_is_answered(client, straight, address):
    """From all power of flux to none, with a rectifier behind, on every address of a rig."""
    row = f"{LAMP}&p.straight={straight}&p.ratio=0.05&p.bond=none&b1.kind=rectifier"
    row = row.replace("p.bond=end&", "") + "&b1.rectifier=bridge&b1.diode_volts=1"
    answer = client.get(f"/rigs/{address}?{row}")

    assert answer.status_code == 200
    assert page(answer)


def test_figures_too_far_apart_are_told_on_every_address_of_a_rig(client):
    """A ballast of next to no amps at many volts: a sentence, never a fault of ours."""
    row = f"{LAMP}&a2.kind=ballast&a2.short_amps=1e-15&a2.at_volts=1e9&a2.at_hertz=1e-9"
    for address in ("edit", "sheet", "rig.cir", "rig.csv", "rig.json"):
        assert client.get(f"/rigs/{address}?{row}").status_code in (200, 422), address
