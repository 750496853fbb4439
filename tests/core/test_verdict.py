"""The verdict with its reasons, and what is to be read again."""

import pytest

from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import as_json, identify
from greyfell.core.telling.why import why
from tests.conftest import piece

SCREENED = [
    {"kind": "core_proof", "ohms": 0.1},
    ("A", "B", 8.0),
    ("C", "D", 0.20),
    ("A", "C", "open"),
    ("A", "core", "open"),
    ("B", "core", "open"),
    ("C", "core", "open"),
]
LIVE = {
    "kind": "ratio",
    "driven": ["A", "B"],
    "driven_volts": 229.0,
    "sensed": ["C", "D"],
    "sensed_volts": 28.71,
}


PLATE = {"primary_volts": 230.0, "hertz": 50.0, "outputs": [{"volts": 26.0}]}


def judged(readings, plate=None):
    """A record of four leads and what follows from it."""
    told = {"supply": {"volts": 230, "hertz": 50}, **({"nameplate": plate} if plate else {})}
    record = parse_record(piece("ABCD", readings, **told))
    return record, identify(record)


@pytest.mark.parametrize(
    ("readings", "word", "reason"),
    [
        ([], "unknown", "no winding is known yet"),
        (SCREENED[1:], "unknown", "the core is not proved"),
        (SCREENED[:4] + SCREENED[6:], "unknown", "A–B to the core was not read"),
        (SCREENED, "screened", "nothing was read yet with the primary at working flux"),
        ([*SCREENED, LIVE], "screened", "without a plate the winding that takes the mains"),
        (
            [
                *SCREENED,
                {
                    "kind": "ratio",
                    "driven": ["A", "B"],
                    "driven_volts": 229.0,
                    "sensed": ["C", "D"],
                    "sensed_volts": 2.871,
                },
            ],
            "doubtful",
            "ratio conflict: ",
        ),
        ([*SCREENED[:4], ("A", "core", 3e5), *SCREENED[5:]], "condemned", "insulation low"),
    ],
    ids=["nothing", "no proof", "primary to core missing", "cold", "live", "conflict", "leak"],
)
def test_the_verdict_says_why(readings, word, reason):
    """Each step of a piece's way, with what is still missing or what stands against it."""
    _, ident = judged(readings)

    assert ident.verdict == word
    assert any(reason in r for r in ident.judgement.verdict.reasons)


def test_a_fault_says_which_readings_to_take_again_and_how():
    """Leakage: dry, fingers off, highest range; by the readings it rests on."""
    _, ident = judged([*SCREENED[:4], ("A", "core", 3e5), *SCREENED[5:]])
    (again,) = [r for r in ident.judgement.verdict.recheck if "r5" in r.readings]

    assert "fingers off" in again.how
    assert set(again.leads) >= {"core"}


def test_a_weak_open_reading_is_read_again_on_a_range_that_counts():
    """A low range opens no gate, and is on the list by name; a good one is not."""
    low = {"kind": "resistance", "between": ["A", "core"], "ohms": "open", "range_ohms": 2000.0}
    _, ident = judged([*SCREENED[:4], low, SCREENED[6]])

    assert [r.readings for r in ident.judgement.verdict.recheck] == [("r5",)]
    assert "20 MΩ" in ident.judgement.verdict.recheck[0].how


def test_a_sound_piece_has_nothing_to_read_again():
    """No list for the list's sake."""
    assert judged([*SCREENED, LIVE])[1].judgement.verdict.recheck == ()


def test_the_why_and_the_json_carry_reasons_and_list():
    """One judgement, told three ways."""
    _record, ident = judged([*SCREENED[:4], ("A", "core", 3e5), *SCREENED[5:]])
    told, explained = as_json(ident), why(ident, ["verdict"])

    assert told["verdict_reasons"] == list(ident.judgement.verdict.reasons)
    assert told["recheck"][0] == {
        "readings": list(ident.judgement.verdict.recheck[0].readings),
        "leads": list(ident.judgement.verdict.recheck[0].leads),
        "how": ident.judgement.verdict.recheck[0].how,
    }
    assert ident.judgement.verdict.reasons[0] in explained.with_figures
    assert any(what.startswith("read again") for what, _ in explained.evidence)


def test_the_record_station_shows_both(bench):
    """Reasons above the readings, and what to read again."""
    page = bench.get("/pieces/T-1/?at=record").get_data(as_text=True)

    assert 'id="verdict"' in page
    bench.post("/pieces/T-1/jot", {"line": "A-core 300k", "at": "cold"})
    assert "Read again" in bench.get("/pieces/T-1/?at=record").get_data(as_text=True)
