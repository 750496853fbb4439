"""Shorted turns, from inductance, Q, watts and amps at no load, ratio and lamp together; nothing is
cleared by a dark lamp.
"""

import numpy as np
import pytest

from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.faults import find_faults
from greyfell.core.judgement.shorts import PRIOR, odds_of_shorted_turns
from greyfell.core.simulated.owner import take
from tests.conftest import piece

SOUND = [
    {"kind": "core_proof", "ohms": 0.1},
    ("A", "B", 8.0),
    ("C", "D", 0.20),
    ("A", "C", "open"),
    ("A", "core", "open"),
    ("C", "core", "open"),
]
"""A mains transformer of some 150 VA as an ohmmeter sees it."""


SUPPLY = {"volts": 230, "hertz": 50}
PLATE = {"primary_volts": 230.0, "va": 150.0}


def henries(value, q, hertz=100.0):
    """An inductance reading of the primary."""
    return {"kind": "inductance", "across": ["A", "B"], "henries": value, "hertz": hertz, "q": q}


def no_load(amps, watts=None, volts=230.0):
    """A no-load reading of the primary."""
    return {
        "kind": "no_load",
        "driven": ["A", "B"],
        "volts": volts,
        "amps": amps,
        **({"watts": watts} if watts is not None else {}),
    }


def lamp(glow):
    """A 60 W lamp in series with the primary."""
    return {
        "kind": "lamp",
        "across": ["A", "B"],
        "supply_volts": 230.0,
        "lamp_watts": 60.0,
        "glow": glow,
    }


def weighed(*readings, **more):
    """Probability of shorted turns, clues by kind, and the faults."""
    record = parse_record(
        piece("ABCD", [*SOUND, *readings], **{"supply": SUPPLY, "nameplate": PLATE, **more})
    )
    ident = identify(record)
    chance, clues = odds_of_shorted_turns(ident.record, ident.belief)
    return (
        chance,
        {c.kind: c.weight for c in clues},
        [f for f in ident.faults if f.code == "shorted-turns"],
    )


def test_before_anything_but_ohms_only_experience_speaks():
    """Ohms do not show a few shorted turns: the odds are those of salvaged iron."""
    assert weighed()[0] == pytest.approx(PRIOR)


@pytest.mark.parametrize(
    ("reading", "kind"),
    [
        (henries(1.6, 7.0), "Q"),
        (no_load(0.08, 5.0), "no load"),
        (henries(1.6, 7.0), "inductance"),
    ],
)
def test_what_looks_sound_makes_it_less_likely(reading, kind):
    """Usual henries, Q and watts each speak against it, none for certain."""
    chance, clues, faults = weighed(reading)

    assert clues[kind] < 0
    assert 0 < chance < PRIOR
    assert faults == []


@pytest.mark.parametrize(
    ("reading", "kind"),
    [
        (henries(0.15, 0.6), "Q"),
        (henries(0.03, 5.0), "inductance"),
        (no_load(0.5, 90.0), "no load"),
        (no_load(2.5), "no load"),
        (lamp("bright"), "lamp"),
    ],
)
def test_each_kind_of_reading_can_speak_for_it(reading, kind):
    """A resistive reactance, henries far too few, watts or amps far too many, a lit lamp."""
    chance, clues, _ = weighed(reading)

    assert clues[kind] > 1
    assert chance > PRIOR


def test_two_kinds_that_agree_stop_the_piece():
    """Q of a half and ninety watts at no load: the fault names both readings, and stops."""
    chance, _, (fault,) = weighed(henries(0.15, 0.5), no_load(0.5, 90.0))

    assert chance > 0.99
    assert fault.severity == "stop"
    assert {"r7", "r8"} <= set(fault.readings)
    assert "100 or 120 Hz" in fault.sentence


def test_one_kind_alone_is_a_caution():
    """A load left on, a ring through the window: one kind of reading never condemns."""
    _, _, (fault,) = weighed(henries(0.6, 0.35))

    assert (fault.code, fault.severity) == ("shorted-turns", "caution")


def test_a_bright_lamp_by_itself_asks():
    """On a winding that should carry the mains: shorted turns, a load left on, a lamp too small;
    nothing live until it is settled.
    """
    chance, _, (fault,) = weighed({**lamp("bright"), "lamp_watts": 500.0})

    assert 0.15 < chance < 0.5
    assert fault.severity == "caution"
    assert "cannot be ruled out" in fault.sentence


def test_a_lamp_that_hungry_iron_of_its_kind_lights_too_asks_nothing_by_itself():
    """It weighs, and raises no question: the largest lamp that sound iron never lights would."""
    chance, clues, faults = weighed(lamp("bright"))

    assert "lamp" in clues
    assert 0.03 < chance < 1 / 7
    assert faults == []


def test_a_lamp_too_small_for_the_iron_says_nothing():
    """Eight watts in series with big iron: its magnetising current lights it, sound or not. Common
    practice.
    """
    small = {**lamp("bright"), "lamp_watts": 8.0}

    assert "lamp" not in weighed(small)[1]


@pytest.mark.parametrize("glow", ["dark", "dim"])
def test_a_dark_lamp_clears_nothing(glow):
    """One shorted HV turn costs 20 W: behind a lamp it stays dark. The odds do not move."""
    assert weighed(lamp(glow))[0] == weighed()[0]


def test_where_copper_decides_the_meters_q_it_tells_nothing_of_the_iron():
    """A low Q that the winding's own ohms explain is no loop."""
    assert "Q" not in weighed(henries(0.012, 0.9))[1]


def test_the_q_of_a_winding_near_its_resonance_is_not_weighed():
    """A sign piece's HV winding reads what it likes at 120 Hz: its Q is no shorted turn."""
    rows = [
        ("A", "B", 1.12),
        ("C", "core", 8200.0),
        ("D", "core", 8030.0),
        ("C", "D", 16220.0),
        ("A", "C", "open"),
        {"kind": "inductance", "across": ["C", "D"], "henries": 1329.0, "hertz": 120.0, "q": 0.039},
    ]
    record = parse_record(piece("ABCD", rows, supply={"volts": 120, "hertz": 60}))
    ident = identify(record)

    assert "Q" not in {c.kind for c in odds_of_shorted_turns(ident.record, ident.belief)[1]}
    assert not any(f.code == "shorted-turns" for f in ident.faults)


def test_q_at_a_kilohertz_is_not_weighed():
    """Eddy currents in the laminations spoil it there. Domain rule."""
    assert "Q" not in weighed(henries(1.2, 0.8, hertz=1000.0))[1]


def test_a_chokes_gap_is_no_short():
    """Few henries are what a gap is for: chokes and what fits no family are not judged so."""
    rows = [
        ("A", "B", 9.0),
        ("A", "core", "open"),
        {"kind": "inductance", "across": ["A", "B"], "henries": 0.45, "hertz": 100, "q": 12.0},
    ]
    record = parse_record(
        piece("AB", rows, declared_family="choke", supply={"volts": 230, "hertz": 50})
    )
    ident = identify(record)

    assert ident.family == "choke"
    assert odds_of_shorted_turns(ident.record, ident.belief) == (PRIOR, [])


def test_the_odds_keep_their_word_on_records_of_the_forward_model():
    """Records with no-load watts, half of them with one turn in a hundred shorted: named where
    shown, hardly ever where not.
    """
    rng = np.random.default_rng(19)
    found, false = [], []
    for n in range(100):
        told = take(
            rng, "live", fault_share=float(n % 2), slip_share=0.0, faults=("shorted-turns",) * 5
        )
        record = parse_record(told.document)
        ident = identify(record)
        if ident.family != told.piece.family or told.piece.family in ("choke", "other"):
            continue
        named = bool(
            {"shorted-turns", "excess-no-load-current", "ratio-conflict"}
            & {f.code for f in find_faults(ident.record, ident.belief)}
        )
        if told.faults and told.shown:
            found.append(named)
        elif told.sound:
            false.append("shorted-turns" in {f.code for f in ident.faults})

    assert len(found) > 12
    assert np.mean(found) > 0.85
    assert np.mean(false) < 0.03
