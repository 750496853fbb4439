"""Instruments over HTTP: an address kept with a meter of the stores, a figure into the jotter with
its limits, faults as sentences, points streamed or pasted that go on record together.
"""

import html

import pytest
from msgspec.structs import replace

from greyfell.core.exchange.logged import logged
from greyfell.instruments.declared import INSTRUMENTS, instrument_of
from greyfell.instruments.standin import Device, StandIn
from greyfell.records.repository import Repository
from greyfell.records.stores import Stores
from greyfell.web import answering

LOG = "time;U [V];I [mA];P [W]\n1;23,0;5,1;0,05\n2;23,1;5,1;0,05\n3;115;30,5;1,1\n4;230;96;3,9\n"


def page(response):
    """The text of a page."""
    return html.unescape(response.get_data(as_text=True))


@pytest.fixture
def wattmeter():
    """A stand-in in the line, at 230 V."""
    values = {"volts": lambda: 230.0, "amps": lambda: 0.096, "watts": lambda: 3.9}
    device = Device(instrument=instrument_of("wattmeter"), values=values, latency=0.0)
    with StandIn(device) as there:
        yield there


@pytest.fixture
def metered(demo, wattmeter):
    """A client whose stores have a wattmeter that answers: client, its id, the stand-in."""
    shelf = Stores(demo.app.extensions["store"])
    uid = shelf.add(
        {"kind": "wattmeter", "title": "in the line", "count": 1, "most_watts": 3000.0}
    ).id
    form = {"speaks": "wattmeter", "address": wattmeter.address}
    assert demo.post(f"/instruments/{uid}", form).status_code == 302
    return demo, uid, wattmeter


def test_a_meter_with_an_address_is_offered_where_readings_are_typed(metered):
    """At the jotter and on its own page; taken away, it is not any more."""
    client, uid, _ = metered
    assert f"/instruments/{uid}/read" in page(client.get("/pieces/CQ-021/"))
    assert "volts, amps, watts" in page(client.get("/instruments"))

    client.post(f"/instruments/{uid}", {"speaks": "wattmeter", "address": ""})
    assert f"/instruments/{uid}/read" not in page(client.get("/pieces/CQ-021/"))


def test_a_figure_comes_as_a_line_of_the_jotter(metered):
    """One with its limits; all three together as a step of a sweep."""
    client, uid, _ = metered
    one = client.post(f"/instruments/{uid}/read", {"function": "amps"}).get_json()
    whole = client.post(f"/instruments/{uid}/read", {"function": "all"}).get_json()

    assert one["line"] == "0.0960000A ±0.3%"
    assert whole["line"] == "230.000V ±0.2% 0.0960000A ±0.3% 3.90000W ±0.5%"
    assert whole["volts"] == 230.0


@pytest.mark.parametrize(
    ("fault", "words"), [("garbage", "no figure"), ("drop", "nothing was taken")]
)
def test_a_fault_is_a_sentence_and_no_line(metered, monkeypatch, fault, words):
    """Nothing to store, though nobody waits longer than half a second for it."""
    hasty = [replace(i, seconds=0.5) for i in INSTRUMENTS]
    monkeypatch.setattr(answering, "INSTRUMENTS", hasty)
    client, uid, there = metered
    there.device.fault = fault
    said = client.post(f"/instruments/{uid}/read", {"function": "amps"}).get_json()

    assert words in said["problem"]
    assert "line" not in said


def test_beyond_the_range_no_step_is_told(metered):
    """All three, and one of them over: no line."""
    client, uid, there = metered
    there.device.fault = "over"
    said = client.post(f"/instruments/{uid}/read", {"function": "all"}).get_json()

    assert said["line"] == ""
    assert "beyond its range" in said["problem"]


@pytest.mark.parametrize(
    ("form", "words"),
    [
        ({"speaks": "wattmeter", "address": "http://x/"}, "An address is"),
        ({"speaks": "oven", "address": "TCPIP::127.0.0.1::5025::SOCKET"}, "An instrument is one"),
    ],
)
def test_an_address_or_a_class_that_is_none_is_refused(metered, form, words):
    """By a sentence; what was kept stays."""
    client, uid, there = metered
    answer = client.post(f"/instruments/{uid}", form)

    assert answer.status_code == 422
    assert words in page(answer)
    assert there.address in page(client.get("/instruments"))


def test_what_is_none_is_said_to_be_none(metered):
    """A meter without an address, a function it has not."""
    client, uid, _ = metered

    assert client.post("/instruments/s99999999/read", {"function": "amps"}).status_code == 404
    said = client.post(f"/instruments/{uid}/read", {"function": "smell"}).get_json()
    assert "reads volts, amps, watts" in said["problem"]


# ------------------------------------------------------------------------- points


def readings(client):
    """The no-load readings on record."""
    record = Repository(client.app.extensions["store"]).get("CQ-021").record
    return [r for r in record.readings if r.kind == "no_load"]


def test_a_pasted_log_becomes_steps_of_the_sweep_all_at_once(demo):
    """Decimal commas, milliamps; the step that is another's is left out."""
    before = len(readings(demo))
    answer = demo.post("/pieces/CQ-021/points", {"points": LOG})
    new = readings(demo)[before:]

    assert answer.status_code == 302
    assert [(r.volts, r.amps, r.watts) for r in new] == [
        (23.0, 0.0051, 0.05),
        (115.0, 0.0305, 1.1),
        (230.0, 0.096, 3.9),
    ]


def test_streamed_lines_go_on_record_as_they_are(demo):
    """Lines of the jotter that begin with the fed pair."""
    before = len(readings(demo))
    demo.post("/pieces/CQ-021/points", {"points": "A-B 23V 0.005A 0.1W\nA-B 60V 0.012A 0.4W"})

    assert len(readings(demo)) == before + 2


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "there are none"),
        ("time;U [V]\n1;230", "no amps"),
        ("time;U [V];I [A]\n1;23O;0.1", "is no figure"),
        ("hello", "no volts"),
        ("A-B 1.3", "Only steps of volts and amps"),
        ("A-B 23V 0.1A\nA-B nonsense", "nonsense"),
    ],
)
def test_a_log_with_one_bad_line_stores_none_of_it(demo, text, words):
    """The sentence names the line; what was pasted stays in the box."""
    before = len(readings(demo))
    answer = demo.post("/pieces/CQ-021/points", {"points": text})

    assert answer.status_code == 422
    assert words in page(answer)
    assert text in page(answer)
    assert len(readings(demo)) == before


@pytest.mark.parametrize(
    ("text", "volts", "amps", "watts"),
    [
        ("10:00:01, 230.1, VAC, 0.52, A", 230.1, 0.52, None),
        ("230.1V,520mA,61W", 230.1, 0.52, 61.0),
        ("Voltage,Current,Power\n115.0,0.2,11", 115.0, 0.2, 11.0),
        ("date\tU\tI\nx\t23\t0.01", 23.0, 0.01, None),
        ("Spannung [V];Strom [mA];Leistung [W]\n23,5;12,5;0,2", 23.5, 0.0125, 0.2),
    ],
)
def test_logs_of_many_hands_are_read(text, volts, amps, watts):
    """By the names over the columns, or by the units beside the figures."""
    (point,) = logged(text)

    assert point.volts == volts
    assert point.amps == pytest.approx(amps)
    assert point.watts == watts
