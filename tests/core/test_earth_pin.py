"""An earth wire or pin on what may be the mains winding stops the piece, in its own words; the good
reading beside it is not asked to be struck.
"""

import pytest

from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.gates import live_gate
from greyfell.core.steps.next_step import next_steps
from tests.conftest import MAINS, PLATE, piece

EARTH = {"id": "E", "colour": "green", "stripe": "yellow"}
LEADS = ["A", "B", "C", "D"]
SALVAGED = [
    {"id": "s1", "kind": "no-capacitor", "concerns": "capacitor", "text": "looked: none here"}
]


def concluded(readings, leads=LEADS):
    """A plated bell part with these readings besides."""
    more = {"supply": {"volts": 230, "hertz": 50}, "statements": SALVAGED}
    return identify(
        parse_record(piece(leads, [*MAINS, *readings], nameplate=PLATE, **more)),
    )


def codes(ident):
    """The codes of its stops."""
    return [f.code for f in ident.faults if f.severity == "stop"]


@pytest.mark.parametrize(
    "readings",
    [
        [("earth", "A", 0.3)],
        [("earth", "B", 0.3), ("earth", "core", 0.2)],
        [{"kind": "dc_drop", "across": ["earth", "A"], "volts": 0.03, "amps": 0.1}],
    ],
)
def test_the_earth_on_an_end_of_the_primary_stops_in_its_own_words(readings):
    """Named with its ohms; the same pair is read again, and no good reading is struck."""
    ident = concluded(readings)

    assert codes(ident)[0] == "earth-on-winding"
    assert "all that is earthed would be live" in ident.stop.sentence
    assert "earth" in next_steps(ident)[0].title
    assert not [f for f in ident.faults if f.code == "inconsistent-readings"]
    assert not live_gate(ident).open


def test_a_wire_in_earth_s_colours_on_the_primary_stops_though_the_core_reads_open():
    """It would leave the bench with the mains on it, and iron that screens."""
    ident = concluded([("E", "A", 0.3), ("E", "core", "open")], [*LEADS, EARTH])

    assert codes(ident)[0] == "earth-on-winding"
    assert not live_gate(ident).open


@pytest.mark.parametrize(
    ("ohms", "stops"), [(9.9e3, True), (1.01e4, False)], ids=["conducts", "leaks"]
)
def test_an_earth_that_leaks_is_told_as_a_leak(ohms, stops):
    """Below ten kilohms it conducts."""
    ident = concluded([("earth", "A", ohms)])

    assert ("earth-on-winding" in codes(ident)) == stops
    assert not live_gate(ident).open


@pytest.mark.parametrize(
    ("lead", "stops"),
    [
        ({"id": "E", "colour": "yellow", "stripe": "green"}, True),
        ({"id": "E", "colour": "green"}, False),
        ({"id": "E", "colour": "green", "stripe": "white"}, False),
    ],
)
def test_the_colours_of_an_earth_are_green_and_yellow_together(lead, stops):
    """IEC 60445; a green lead alone is a heater's as often."""
    ident = concluded([("E", "A", 0.3), ("E", "core", "open")], [*LEADS, lead])

    assert ("earth-on-winding" in codes(ident)) == stops


def test_an_earth_on_the_core_or_on_an_output_is_none_of_it():
    """The core is earthed as it should be; an output on earth is asked about elsewhere."""
    assert "earth-on-winding" not in codes(concluded([("earth", "core", 0.1)]))
    assert "earth-on-winding" not in codes(concluded([("earth", "C", 0.3)]))
