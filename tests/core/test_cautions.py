"""Every caution stands where its act happens, at most two at a time, and nowhere else."""

import pytest

from greyfell.core.dangers.of_act import ACTS, ROWS, said_at
from greyfell.core.dangers.of_handling import MOST_AT_ONCE, handling, of_donor
from greyfell.core.dangers.of_live import live_notes
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import answer, identify
from greyfell.core.judgement.high import share_to_earth
from greyfell.core.steps import step as steps
from greyfell.core.steps.next_step import next_json, next_steps
from greyfell.core.steps.salvage import STEP, STEPS
from greyfell.core.steps.step import Words
from tests.conftest import MAINS, OVEN, PLATE, every, piece
from tests.core.test_hazards import SIGN

TOLD = [
    # salvage, domain section 1
    ("plug", "Not alone"),
    ("found", "Treat it as charged"),
    ("found", "bleeder inside it is not to be trusted"),
    ("chain", "reads open discharges nothing"),
    ("chain", "no chain is held in the fingers"),
    ("holding", "makes nothing safe"),
    ("short", "failed chain would put kilovolts"),
    ("proved", "Without a meter this gate stays shut"),
    ("measured", "meter proved just before"),
    ("again", "comes back by itself"),
    ("clip", "taken off again is no short"),
    ("cut free", "Label both sides"),
    # looking, section 2
    ("look", "never trusted alone"),
    # cold, section 3
    ("core proof", "Nothing is powered"),
    ("open to core", "Fingers off"),
    ("clear", "No statement overrides"),
    ("insulation", "puts its volts on every lead"),
    ("clear insulation", "puts its volts on every lead"),
    # low energy, section 4
    ("milliohms", "it kicks"),
    ("reverse ratio", "never on the heater"),
    ("reverse ratio", "at or below the drive"),
    ("ratio", "behind a variac alone float at mains"),
    ("ratio", "above 30 V it counts as live"),
    ("polarity", "above 30 V it counts as live"),
    ("cautious ratio", "even 3 V makes it live"),
    ("test turns", "kilovolt insulation"),
    ("inductance", "Nothing is powered"),
    ("first power", "protects iron, not people"),
]
PAGE_ACTS = {"look", "cut free"}
"""Acts of pages that are neither a step nor one of the gate's."""


@pytest.mark.parametrize(("act", "sentence"), TOLD)
def test_a_caution_is_said_where_its_act_happens_and_nowhere_else(act, sentence):
    """By the table; the other acts do not say it."""
    holders = [rule for rule in ROWS if sentence in rule.reason]

    assert any(sentence in said for said in said_at(act))
    for other in set(ACTS) - {a for c in holders for a in c.acts}:
        assert not any(sentence in said for said in said_at(other))


def test_at_most_two_are_said_at_once_and_every_act_is_one_that_happens():
    """Acts are those of steps, of the gate and of two pages; each says something, none too much."""
    words = {w.act for w in vars(steps).values() if isinstance(w, Words)} - {""}
    gate = {step.key for step in STEPS}

    assert set(ACTS) == words | gate | PAGE_ACTS
    assert every(1 <= len(said_at(act)) <= MOST_AT_ONCE for act in ACTS)


@pytest.mark.parametrize("readings", [(), MAINS, OVEN])
def test_every_step_carries_its_cautions_in_json(readings):
    """Alone and with what stands live meanwhile, joined in one line."""
    ident = identify(parse_record(piece("ABCDE", readings)))
    for step in next_steps(ident):
        told = step.as_json()
        assert len(told["cautions"]) <= MOST_AT_ONCE
        assert every(one in told["caution"] for one in told["cautions"])


@pytest.mark.parametrize("taken", range(len(STEPS)))
def test_every_step_of_the_gate_carries_its_cautions_in_json(taken):
    """The one that is due, with what is said there and nothing of the others."""
    said = [
        {
            "id": f"s{n}",
            "kind": STEP,
            "concerns": step.key,
            "text": step.title,
            "at": f"2026-05-01T18:{n:02d}:00+01:00",
            "value": 100e3 if step.asks == "ohms" else 0.4,
        }
        for n, step in enumerate(STEPS[:taken])
    ]
    told = piece("ABCDE", declared_family="microwave", statements=said)
    gate = next_json(identify(parse_record(told)))["gate"]

    assert gate["step"] == STEPS[taken].key
    assert gate["cautions"] == list(said_at(STEPS[taken].key))


WHO = [
    ({"declared_family": "microwave"}, ["magnetron", "second-store"]),
    ({"declared_family": "sign"}, ["by-the-case", "oil"]),
    ({"declared_family": "mains"}, ["cut-out"]),
    ({"title": "crank welder"}, ["asbestos"]),
    ({"declared_family": "variable"}, []),
    ({"declared_family": "choke", "core": {"assembly": "potted"}}, ["oil"]),
    ({"donor": {"kind": "oven"}}, ["magnetron", "second-store"]),
    ({}, []),
]


@pytest.mark.parametrize(("facts", "codes"), WHO)
def test_handling_says_what_applies_to_this_family_and_no_more(facts, codes):
    """In JSON as on the page; nothing of families it is not likely to be."""
    record = parse_record(piece("ABCD", **facts))
    ident = identify(record)

    assert [h.code for h in handling(ident)] == codes
    assert [h["code"] for h in answer(ident)["handling"]] == codes


def test_a_mains_plate_says_nothing_of_magnetrons():
    """What is read and plated is not told of ovens."""
    record = parse_record(piece("ABCD", MAINS, nameplate=PLATE))

    assert [h.code for h in handling(identify(record))] == ["cut-out"]
    assert [h.code for h in of_donor("sign")] == ["by-the-case", "oil"]


@pytest.mark.parametrize(
    ("document", "share"),
    [
        (piece("ABCDE", [*OVEN, ("C", "core", 60.0)]), "All"),
        (piece("ABCD", SIGN), "Half"),
        (piece("ABCDE", OVEN[:3]), "Half or all"),
    ],
    ids=["an end on the iron", "the middle on the iron", "not read"],
)
def test_half_or_whole_goes_by_the_bond_that_was_read(document, share):
    """At first power, in the notes beside it, and on the page of dangers."""
    ident = identify(parse_record(document))

    assert share_to_earth(ident.belief) == share
    assert f"{share} of its output stands to earth" in said_at("first power high", share)[1]
    noted = [n.reason for n in live_notes(ident) if n.code == "one-terminal"]
    assert every(reason.startswith(f"{share} of the output") for reason in noted)
