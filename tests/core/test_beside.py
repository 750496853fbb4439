"""What stands beside a figure: rough, claimed, moved, warm, where it was read, digits as typed; and
old records that say nothing of it.
"""

import pytest

from greyfell.core.errors import FieldError
from greyfell.core.evidence.accuracy import limit, limit_parts
from greyfell.core.evidence.jotter import read_line
from greyfell.core.evidence.parse import parse_reading, parse_record
from greyfell.core.evidence.reading_in_words import told
from greyfell.core.identify import identify
from tests.conftest import OVEN, piece
from tests.core.made import record

SUPPLY = {"volts": 230, "hertz": 50}
RATIO = {"kind": "ratio", "driven": ["A", "B"], "driven_volts": 12.0, "sensed": ["C", "D"]}


@pytest.mark.parametrize(
    ("line", "reading"),
    [
        ("C-D 0.6..0.7..1.0", {"ohms": 0.7, "least": 0.6, "most": 1.0}),
        ("C-D 0.6..1.0", {"ohms": 0.8, "least": 0.6, "most": 1.0}),
        ("C-D 0.8 then 0.7", {"ohms": 0.7, "least": 0.7, "most": 0.8}),
        ("A-B 12V > C-D 0.6..0.7..1.0V", {"sensed_volts": 0.7, "least": 0.6, "most": 1.0}),
        ("A-B 230V 60..70..80mA", {"amps": 0.07, "least": 0.06, "most": 0.08}),
        ("A-B about 1.3", {"ohms": 1.3, "about": True}),
        ("A-B ~1.3", {"ohms": 1.3, "about": True}),
        ("A-B claimed 230V 1.9A", {"amps": 1.9, "claimed": True}),
        ("A-B 1.3 75C", {"ohms": 1.3, "celsius": 75.0}),
        ("A-B 230V 75W", {"volts": 230.0, "watts": 75.0}),
        ("A-B 1.6H ?", {"henries": 1.6}),
        ("A-B 230V 1.2A ahead of ballast", {"amps": 1.2, "where": "ahead of ballast"}),
        ("A-B 230V 1.2A at the socket", {"amps": 1.2, "where": "socket"}),
    ],
)
def test_one_line_of_the_jotter_says_it(line, reading):
    """And says it back."""
    jotted = read_line(line, list("ABCD"))
    again = told(parse_reading({"id": "r1", **jotted.reading}, list("ABCD")))

    assert {k: jotted.reading[k] for k in reading} == reading
    assert jotted.words.endswith(again)


@pytest.mark.parametrize("line", ["A-B 1..2..3..4", "A-B 1.6H", "A-B 230V"])
def test_what_is_not_whole_is_refused_with_a_sentence(line):
    with pytest.raises(FieldError):
        read_line(line, list("ABCD"))


def test_no_load_needs_amps_or_watts():
    bare = {"kind": "no_load", "driven": ["A", "B"], "volts": 230.0}

    assert parse_reading({**bare, "watts": 60.0}, ["A", "B"]).amps is None
    with pytest.raises(FieldError, match="amps or watts"):
        parse_reading(bare, ["A", "B"])


@pytest.mark.parametrize(
    ("more", "wide"),
    [
        ({}, 0.0),
        ({"about": True}, 0.13),
        ({"least": 1.0}, 0.3),
        ({"least": 1.2, "most": 1.6}, 0.3),
        ({"least": 1.3, "most": 1.3}, 0.0),
    ],
)
def test_a_figure_that_moves_or_is_rough_is_as_wide_as_that(more, wide):
    """A tenth for about; as far as it moved."""
    plain = {"kind": "resistance", "between": ["A", "B"], "ohms": 1.3}
    one, other = record([plain]), record([{**plain, **more}])

    assert limit(other.standing[0], "ohms") == pytest.approx(limit(one.standing[0], "ohms") + wide)


@pytest.mark.parametrize(
    ("amps", "typed", "digits"),
    [
        (0.1, None, 0.03),
        (0.1, "0.100", 0.003),
        (0.1, "0.1", 0.3),
        (6.1, "6.10", 0.03),
        (2.5, None, 0.3),
    ],
)
def test_digits_count_as_they_were_typed(amps, typed, digits):
    """6.10 is not 6.1; 0.1 A on a 3½-digit meter is not within 0.3 A."""
    reading = {"kind": "no_load", "driven": ["A", "B"], "volts": 230.0, "amps": amps}
    reading |= {"typed": {"amps": typed}} if typed else {}
    (seen,) = record([reading]).standing

    assert limit_parts(seen, "amps")[1] == pytest.approx(digits)


def test_what_is_claimed_is_kept_and_counts_for_nothing():
    claim = {**RATIO, "sensed_volts": 0.1, "claimed": True}
    with_it, without = (
        identify(parse_record(piece("ABCDE", rows, supply=SUPPLY)))
        for rows in ([*OVEN, claim], OVEN)
    )

    assert with_it.families == without.families
    assert len(parse_record(piece("ABCDE", [*OVEN, claim])).readings) == len(OVEN) + 1


@pytest.mark.parametrize("more", [{"where": "ahead of ballast"}, {"links": [["B", "C"]]}])
def test_volts_read_elsewhere_tell_nothing_of_the_winding(more):
    """Ahead of a ballast the meter shows the line; joined windings show their sum."""
    rows = [("A", "B", 33.0), ("C", "D", 0.13)]
    odd = {**RATIO, "sensed_volts": 6.0, **more}
    told_so, bare = (
        identify(parse_record(piece("ABCD", r, supply=SUPPLY))) for r in ([*rows, odd], rows)
    )

    assert told_so.windings[1].volts.value == pytest.approx(bare.windings[1].volts.value, rel=0.2)


def test_an_unknown_frequency_says_less_and_judges_no_q():
    rows = [("A", "B", 33.0), ("C", "D", 0.13)]
    henries = {"kind": "inductance", "across": ["A", "B"], "henries": 0.02, "q": 0.4}

    def codes(reading):
        told_so = identify(parse_record(piece("ABCD", [*rows, reading], supply=SUPPLY)))
        return {f.code for f in told_so.faults if f.severity == "stop"}

    assert "shorted-turns" not in codes(henries)
    assert "hertz not noted" in told(record([henries]).standing[0])


def test_leads_and_iron_say_more():
    """What a lead fed, its metal, its damage, how far a core slides: kept, and written back."""
    leads = [
        {"id": "A", "fed": "two 5U4 heaters", "material": "aluminium", "damage": "insulation gone"},
        {"id": "B", "thicker_than": "A"},
    ]
    document = piece(leads, core={"slide_mm": 12.0, "damage": "one lamination bent"})
    made = parse_record(document)

    assert made.leads[0].fed == "two 5U4 heaters"
    assert made.as_json()["leads"] == leads
    assert made.as_json()["core"]["slide_mm"] == 12.0
