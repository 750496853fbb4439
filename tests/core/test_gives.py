"""What a piece gives, and the question across the shelf: loaded volts by the ohms behind an output,
amps for good or for a minute, surely or perhaps.
"""

import numpy as np
import pytest

from greyfell.core.errors import FieldError
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.simulated.owner import documented
from greyfell.core.telling.outputs_of_shelf import (
    ShelfOutput,
    WantedOutput,
    answers,
    outputs,
    parse_wanted,
)

STIFF = ShelfOutput(name="C–D", volts=(12.5, 13.0), ohms=0.0, amps=(5.0, 8.0), minute=(15.0, 24.0))


@pytest.mark.parametrize(
    ("text", "volts", "amps", "brief"),
    [
        ("5 A at 12 V for an hour", 12.0, 5.0, False),
        ("12V 5A", 12.0, 5.0, False),
        ("12 V, 500 mA for 10 s", 12.0, 0.5, True),
        ("2 kV 300mA 5 min", 2000.0, 0.3, True),
        ("2 kV 300mA 6 min", 2000.0, 0.3, False),
        ("12 V 5 A a minute", 12.0, 5.0, True),
        ("6.3 V and 2 A", 6.3, 2.0, False),
    ],
)
def test_a_question_is_understood(text, volts, amps, brief):
    assert parse_wanted(text) == WantedOutput(pytest.approx(volts), pytest.approx(amps), brief)


@pytest.mark.parametrize("text", ["", "12 V", "5 A", "some", "0 V 5 A", "12 V 0 A", "2e9 V 5 A"])
def test_what_is_no_question_is_told_so(text):
    with pytest.raises(FieldError) as refused:
        parse_wanted(text)

    assert "wanted" in refused.value.field


@pytest.mark.parametrize(
    ("out", "wanted", "answer"),
    [
        (STIFF, WantedOutput(12.0, 5.0), "surely"),
        (STIFF, WantedOutput(12.0, 5.1), "perhaps"),
        (STIFF, WantedOutput(12.0, 8.0), "perhaps"),
        (STIFF, WantedOutput(12.0, 8.1), ""),
        (STIFF, WantedOutput(12.0, 15.0, brief=True), "surely"),
        (STIFF, WantedOutput(12.0, 15.1, brief=True), "perhaps"),
        (STIFF, WantedOutput(12.0, 24.1, brief=True), ""),
        (STIFF, WantedOutput(12.5 / 0.919, 1.0), "perhaps"),
        (STIFF, WantedOutput(12.5 / 0.921, 1.0), "surely"),
        (STIFF, WantedOutput(13.0 / 0.919, 1.0), ""),
        (STIFF, WantedOutput(13.0 / 1.19, 1.0), "surely"),
        (STIFF, WantedOutput(13.0 / 1.21, 1.0), "perhaps"),
        (STIFF, WantedOutput(12.5 / 1.21, 1.0), ""),
    ],
)
def test_an_output_answers_surely_perhaps_or_not(out, wanted, answer):
    """0.92 to 1.20 of the volts wanted; all of the range for surely, any of it for perhaps."""
    assert answers(out, wanted) == answer


def test_ohms_behind_an_output_take_their_volts():
    """0.1 Ω takes half a volt at 5 A: 11.5 V open are 11.0 V. Ohm's law."""
    soft = ShelfOutput(
        name="C–D", volts=(11.5, 12.0), ohms=0.1, amps=(5.0, 8.0), minute=(15.0, 24.0)
    )

    assert answers(soft, WantedOutput(12.0, 4.5)) == "surely"
    assert answers(soft, WantedOutput(12.0, 4.61)) == "perhaps", (
        "11.5 − 0.461 V is below 0.92 of 12 V"
    )


@pytest.mark.parametrize("seed", range(12))
def test_documented_pieces_answer_for_their_rating(seed):
    """What a design is rated for is among the answers, nine of ten times; a hundred times it never.
    REF-M-04.
    """
    told = documented(np.random.default_rng(seed), "lv")
    found = outputs(identify(parse_record(told.document)))
    by_ends = {w.leads[0][0] + w.leads[-1][0]: w for w in told.piece.windings}

    assert found
    for out in found:
        w = by_ends.get("".join(out.name.split("–"))) or by_ends["".join(out.name.split("–")[::-1])]
        open_volts = told.volts(w)
        assert answers(out, WantedOutput(open_volts / 1.08, 0.3 * w.rated_amps))
        assert not answers(out, WantedOutput(open_volts / 1.08, 100 * w.rated_amps))


def test_a_stopped_piece_gives_nothing():
    document = documented(np.random.default_rng(1), "lv").document
    assert outputs(identify(parse_record(document)))
    first = document["leads"][0]["id"]
    touch = {"kind": "resistance", "id": "t", "between": [first, "core"], "ohms": 0.5}
    document["readings"] = [*document["readings"], touch]

    assert outputs(identify(parse_record(document))) == []
