"""Labels, tags and terminal marks: what stands on the paper that is tied to a lead."""

import pytest

from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.telling.labels import LIVE_SHARE, labels, tag_lines
from greyfell.core.telling.terminals import terminals
from tests.conftest import KNOWN_OVEN, MAINS, OVEN, PLATE, piece


def told(leads, readings, **more):
    """The identification of a piece made by hand."""
    supply = {"volts": 230, "hertz": 50}
    return identify(parse_record(piece(leads, readings, **{"supply": supply, **more})))


def of(ident):
    """Its labels by lead."""
    return {label.lead: label for label in labels(ident)}


RATIO = {
    "kind": "ratio",
    "driven": ["A", "B"],
    "driven_volts": 12.0,
    "sensed": ["C", "D"],
    "sensed_volts": 6.0,
}
HALF = [*MAINS[:2], ("C", "D", 9.0), *MAINS[3:]]
"""The same with a secondary of half the primary's turns."""


def polarity(volts):
    """A–B driven with 12 V, B joined to C, A–D read."""
    return {
        "kind": "polarity",
        "driven": ["A", "B"],
        "driven_volts": 12.0,
        "joined": ["B", "C"],
        "across": ["A", "D"],
        "across_volts": volts,
    }


@pytest.mark.parametrize(("volts", "second"), [(18.0, ("X1", "X2")), (6.0, ("X2", "X1"))])
def test_like_marks_have_like_polarity(volts, second):
    """Adding: A and C are alike, so C is X1; bucking: D is. IEEE C57.12.70."""
    ident = told("ABCD", [*HALF, RATIO, polarity(volts)], nameplate={"primary_volts": 230.0})
    found = terminals(ident, "H/X")

    assert (found.marks["A"], found.marks["B"]) == ("H1", "H2")
    assert (found.marks["C"], found.marks["D"]) == second
    assert found.unread == ()
    assert set(found.alike) == {"A", "C" if second[0] == "X1" else "D"}


def test_marks_without_a_polarity_are_only_proposed():
    """The sentence names the winding; nothing is called alike."""
    found = terminals(told("ABCD", [*HALF, RATIO]), "H/X")

    assert found.unread == ("C–D",)
    assert "C–D" in found.proposed
    assert found.alike == ()


def test_the_other_scheme_counts_windings_and_calls_a_tap_by_number():
    """1U–1V for the winding of the highest volts; one with a tap counts its points on."""
    rows = [
        *MAINS[:2],
        ("C", "E", 0.26),
        ("C", "D", 0.13),
        ("D", "E", 0.13),
        *MAINS[3:],
    ]
    found = terminals(told("ABCDE", rows, nameplate=PLATE), "1U/2U")

    assert (found.marks["A"], found.marks["B"]) == ("1U", "1V")
    assert {found.marks[x] for x in "CDE"} == {"2U1", "2U2", "2U3"}
    assert found.marks["D"] == "2U2"


def test_own_letters_stay_where_nothing_was_chosen():
    """A stays A, and nothing is proposed."""
    found = terminals(told("ABCD", MAINS))

    assert found.marks == {x: x for x in "ABCD"}
    assert found.proposed == ""


def test_a_lead_says_how_it_is_known():
    """Guessed without a reading, read cold with ohms, confirmed live at the supply's volts."""
    live = {"kind": "no_load", "driven": ["A", "B"], "volts": 230.0, "amps": 0.05, "watts": 4.0}
    cold = of(told("ABCDF", MAINS, nameplate=PLATE))
    warm = of(told("ABCDF", [*MAINS, live], nameplate=PLATE))

    assert cold["F"].known == "guessed"
    assert cold["A"].known == "read cold"
    assert warm["A"].known == "confirmed live"
    assert warm["C"].known == "read cold"


@pytest.mark.parametrize(
    ("share", "known"), [(LIVE_SHARE - 0.01, "read cold"), (LIVE_SHARE + 0.01, "confirmed live")]
)
def test_a_reading_confirms_live_from_four_fifths_of_the_supply(share, known):
    """Either side of the share."""
    live = {
        "kind": "no_load",
        "driven": ["A", "B"],
        "volts": round(230.0 * share, 1),
        "amps": 0.05,
    }
    ident = told("ABCD", [*MAINS, live], nameplate=PLATE)

    assert of(ident)["A"].known == known


def test_a_lead_without_volts_counts_as_one_that_kills_and_so_does_the_mains():
    """The oven's heater at some 3 V does not; its HV end and primary do; the core's is its own."""
    found = of(told("ABCDE", OVEN, **KNOWN_OVEN))

    assert found["A"].kills
    assert found["E"].kills
    assert not found["C"].kills
    assert of(told("AB", []))["A"].kills


@pytest.mark.parametrize(("volts", "kills"), [(29.0, False), (31.0, True)])
def test_thirty_volts_are_the_line(volts, kills):
    """A secondary whose highest volts lie just below or just above."""
    ratio = {**RATIO, "driven_volts": 230.0, "sensed_volts": round(volts / 1.02, 2), "percent": 0.1}
    plate = {"primary_volts": 230.0, "hertz": 50.0}
    ident = told("ABCD", [*MAINS[:2], ("C", "D", 0.4), *MAINS[3:], ratio], nameplate=plate)
    high = next(w for w in ident.windings if "C" in w.coil.members).volts.high

    assert (high > 30.0) == kills
    assert of(ident)["C"].kills == kills


def test_a_label_tells_its_last_reading_its_hand_and_where_the_wire_went():
    """Date and hand of the last reading that names it, the wire table beside it."""
    rows = [
        {"kind": "core_proof", "ohms": 0.1},
        {
            "kind": "resistance",
            "between": ["A", "B"],
            "ohms": 33.0,
            "at": "2026-05-02T10:00:00+00:00",
            "by": "hand one",
        },
    ]
    leads = [{"id": "A", "colour": "black", "stripe": "white", "went": "fuse", "fed": "mains"}, "B"]
    label = of(told(leads, rows))["A"]

    assert (label.date, label.hand) == ("2026-05-02", "hand one")
    assert label.went == "fuse, fed mains"
    assert label.colour == "black / white"


def test_the_tag_names_two_points_for_every_volt_and_the_highest_first():
    """Handbook trap 8: half is not whole; the core is Fe."""
    lines = tag_lines(told("ABCDE", OVEN, **KNOWN_OVEN))

    assert lines[0].points == "E–Fe"
    assert "kV" in lines[0].volts
    assert [line.points for line in lines[1:]] == ["A–B", "C–D"]
