"""A kind of reading is one declaration: what one that only this test knows is typed as, said back,
believed, hooked up, asked for and voided by, end to end; the published list stays as it is.
"""

import math
import re
from collections.abc import Iterable
from typing import Literal

import pytest

from greyfell.core.errors import FieldError
from greyfell.core.evidence.accuracy import limit
from greyfell.core.evidence.jotter import lines, read_line
from greyfell.core.evidence.kinds import registry
from greyfell.core.evidence.kinds.reading import (
    WINDINGS_STAY,
    WIRE_STAYS,
    AnyReading,
    HookUp,
    Pad,
    TurnsTold,
    ends,
)
from greyfell.core.evidence.parse import parse_record
from greyfell.core.evidence.part import Counted, Pair, Volts
from greyfell.core.evidence.present import present
from greyfell.core.evidence.reading_in_words import told
from greyfell.core.evidence.record import Transformer
from greyfell.core.evidence.typed_line import Arrow, Form
from greyfell.core.exchange import table
from greyfell.core.identify import identify
from greyfell.core.steps.goals import GOALS
from greyfell.core.steps.next_step import next_steps
from greyfell.core.steps.number_pad import pad_of
from greyfell.core.steps.step import Step
from greyfell.core.steps.summary import reached
from greyfell.core.uses.proofs import missing
from greyfell.records.repository import Repository
from greyfell.web.drawings.hookup import hookup
from greyfell.web.drawings.ridge import walked
from tests.conftest import MAINS, piece

PLATED = {"supply": {"volts": 230, "hertz": 50}, "nameplate": {"primary_volts": 230.0}}
SEARCHED = {
    "kind": "search_coil",
    "driven": ["A", "B"],
    "driven_volts": 12.0,
    "coil_turns": 100.0,
    "coil_volts": 2.46,
}
"""A hundred turns slipped over the leg read 2.46 V with 12 V on A–B: 488 turns."""


def _read(arrow: Arrow) -> dict:
    turns, volts = re.findall(r"coil (\d+) ([\d.]+)V", arrow.right)[0]
    found = {"coil_turns": float(turns), "coil_volts": float(volts)}
    return {"kind": "search_coil", **arrow.source, **found}


class SearchCoil(AnyReading):
    """Volts of a coil slipped over the leg, with a winding driven."""

    kind: Literal["search_coil"] = "search_coil"
    driven: Pair
    driven_volts: Volts
    coil_turns: Counted
    coil_volts: Volts

    lines = (("A-B 12V > coil 100 2.46V", "a coil slipped over the leg"),)
    across_arrow = (Form(lambda arrow: arrow.right.startswith("coil "), _read),)
    pad = Pad(units=(("V", "V"),))
    usual_percent = 3.0
    moves = "coil_volts"
    weighs_turns = True
    counts_turns = True
    reaches = "low"
    told_at_low = True
    hookup = HookUp(shape="tester", shows="V", set_to="coil")
    meets = frozenset(("volts per turn", "test turn"))

    def words(self) -> str:
        """As it is read out."""
        return f"{ends(self.driven)} {self.driven_volts:g} V > coil {self.coil_volts:g} V"

    @property
    def drive(self) -> tuple[Pair, float]:
        """What is driven."""
        return self.driven, self.driven_volts

    def one_winding(self) -> Iterable[tuple[Pair, float]]:
        """What is driven."""
        yield self.driven, self.driven_volts

    def turns_told(self) -> TurnsTold:
        """Turns of the driven winding over the coil's."""
        limits = limit(self, "coil_volts") / self.coil_volts
        turns = self.driven_volts / self.coil_volts * self.coil_turns
        return TurnsTold(
            row="test turn",
            pairs=(self.driven,),
            value=math.log(turns),
            spreads=(limits / math.sqrt(3),),
        )

    def holds_after(self, change: str) -> bool:
        """Where the wire stays."""
        return change in WIRE_STAYS


def _anew() -> None:
    """Records and tables are built of the kinds there are now."""
    Transformer.model_rebuild(force=True)
    table.columns.cache_clear()


@pytest.fixture
def known():
    """A mains part with the new kind's reading, while the kind is registered."""
    registry.EVERY.append(SearchCoil)
    _anew()
    yield identify(parse_record(piece("ABCD", [*MAINS, SEARCHED], **PLATED)))
    registry.EVERY.remove(SearchCoil)
    _anew()


def test_a_kind_that_is_registered_is_read_and_checked(known):
    """Its fields by the record's parser; a lead that is not there is named."""
    reading = known.record.readings[-1]

    assert isinstance(reading, SearchCoil)
    assert limit(reading, "coil_volts") == pytest.approx(0.03 * 2.46 + 3 * 0.01)
    with pytest.raises(FieldError, match="names lead Z"):
        parse_record(piece("ABCD", [*MAINS, {**SEARCHED, "driven": ["A", "Z"]}]))
    with pytest.raises(FieldError, match="coil volts is missing"):
        parse_record(piece("ABCD", [{k: v for k, v in SEARCHED.items() if k != "coil_volts"}]))


def test_it_is_typed_and_said_back(known):
    """The line of its help, as any line; and in a table's columns."""
    line = read_line("A-B 12V > coil 100 2.46V", list("ABCD"))

    assert line.reading == {**SEARCHED, "driven": ("A", "B")}
    assert line.words == "search coil: A–B 12 V > coil 2.46 V"
    assert told(known.record.readings[-1]) == "A–B 12 V > coil 2.46 V"
    assert SearchCoil.lines[0] in lines()
    assert {"coil_turns", "coil_volts"} <= set(table.columns())


def test_it_is_believed(known):
    """488 turns on A–B: 230 V over them are 0.471 V a turn, within its limits."""
    found = known.belief.volts_per_turn

    assert found.low < 230 / 488 < found.high
    assert found.high / found.low < 1.2
    assert known.record.readings[-1].id in str(found.basis)


def test_it_meets_what_asks_for_turns(known):
    """No test turn is asked for any more; a welder's need and the build's proof are met."""
    need = next(n for n in BY_GOAL["tab-welder"].needs if n.demand == "volts per turn")

    assert "test-turn" not in missing(known)
    assert need.there(known)
    assert "search_coil" in need.kinds
    assert "test_turn" not in {s.kind for s in next_steps(known)}
    without = identify(parse_record(piece("ABCD", MAINS, **PLATED)))
    assert "test-turn" in missing(without)


BY_GOAL = {goal.key: goal for goal in GOALS}


def test_it_is_hooked_up_and_has_its_keys(known):
    """A step that asks for it is drawn, worked at low energy, and has its pad."""
    step = Step(kind="search_coil", leads={"driven": ("A", "B")}, title="", do="", jotter="A-B ")

    assert {"V", "coil"} <= {shape.text for shape in hookup(step).shapes}
    assert step.station == "low"
    assert pad_of(step) is SearchCoil.pad
    assert reached(known) == "low energy"
    assert "low" in walked(known.record)


@pytest.mark.parametrize(("what", "left"), [("shunts-removed", True), ("rewound", False)])
def test_work_on_the_iron_voids_it_as_it_says(known, what, left):
    """Where the wire stays it holds; after a rewinding it does not."""
    change = {"what": what, "at": "2026-05-09T15:00:00+01:00"}
    record = parse_record(piece("ABCD", [*MAINS, SEARCHED], changes=[change], **PLATED))

    assert any(r.kind == "search_coil" for r in present(record).readings) == left


def test_its_piece_is_kept_and_shown(known, client):
    """Stored as a record like any, told at low energy."""
    repository = Repository(client.app.extensions["store"])
    repository.add(piece("ABCD", [*MAINS, SEARCHED], **PLATED))
    page = client.get("/pieces/T-1/?at=low").get_data(as_text=True)

    assert "A–B 12 V &gt; coil 2.46 V" in page


def test_without_it_the_kind_is_refused():
    """The published list stays; the sentence names every kind there is."""
    with pytest.raises(FieldError, match=r"known: resistance, core_proof, .* path"):
        parse_record(piece("ABCD", [SEARCHED]))

    assert len(registry.by_key()) == 19


# ------------------------------------------------------------------ what every kind declares

WORK = sorted({*WIRE_STAYS, *WINDINGS_STAY, "rewound", "primary-turns-added", "anything else"})
OUTLASTS = {
    "core_proof": set(WORK),
    "resistance": WIRE_STAYS,
    "dc_drop": WIRE_STAYS,
    "turns": WIRE_STAYS,
    "polarity": WINDINGS_STAY,
}


@pytest.mark.parametrize("kind", registry.by_key())
def test_every_kind_outlasts_what_cannot_have_touched_it(kind):
    """Bare iron outlasts all; wire, what leaves wire alone; insulation and volts nothing."""
    reading = registry.by_key()[kind].model_construct(ohms=1.0)

    assert {w for w in WORK if reading.holds_after(w)} == set(OUTLASTS.get(kind, ()))


def test_what_read_open_outlasts_no_work():
    """Blades, hammers and heat beside windings: whether two are apart is read again."""
    opened = registry.by_key()["resistance"].model_construct(ohms="open")

    assert not [w for w in WORK if opened.holds_after(w)]


@pytest.mark.parametrize(
    ("trait", "kinds"),
    [
        ("by_ohmmeter", {"resistance"}),
        ("of_wire", {"resistance", "dc_drop"}),
        ("may_open", {"resistance", "insulation"}),
        ("counts_turns", {"test_turn", "turns"}),
        ("again_in_time", {"insulation"}),
        (
            "weighs_turns",
            {
                "ratio",
                "test_turn",
                "turns",
                "inductance",
                "load",
                "short_circuit",
                "direct",
                "loop",
            },
        ),
    ],
)
def test_every_trait_is_of_the_kinds_that_have_it(trait, kinds):
    """Each trait decides something about a piece: none is given away by chance."""
    assert set(registry.keys(trait)) == kinds


@pytest.mark.parametrize("kind", registry.EVERY, ids=registry.key_of)
def test_every_line_of_a_kind_is_understood_as_it(kind):
    """What the help offers is typed, and is of the kind that offers it."""
    if kind is registry.by_key()["earth_voltage"]:
        assert kind.lines == (), "told in the line of leakage"
    else:
        assert kind.lines
    for line, _ in kind.lines:
        assert read_line(line, list("ABCDEF")).reading["kind"] == registry.key_of(kind)


@pytest.mark.parametrize(
    ("kind", "fields", "ages"),
    [
        ("insulation", {"between": ("A", "core"), "ohms": 1e9, "test_volts": 500.0}, True),
        ("resistance", {"between": ("A", "core"), "ohms": "open"}, True),
        ("resistance", {"between": ("A", "B"), "ohms": 1.0}, False),
        ("resistance", {"between": ("earth", "core"), "ohms": 0.1}, True),
        ("dc_drop", {"across": ("earth", "core"), "volts": 0.4, "amps": 10.0}, True),
        ("dc_drop", {"across": ("A", "B"), "volts": 0.4, "amps": 10.0}, False),
        ("core_proof", {"ohms": 0.1}, False),
    ],
)
def test_insulation_and_bonds_age_and_wire_does_not(kind, fields, ages):
    """What gets worse by itself is read again after a year. House rule of the gate."""
    assert registry.by_key()[kind](**fields).ages is ages


def test_ohms_are_asked_only_of_what_tells_them():
    """A ratio has none; it says so rather than nought."""
    ratio = registry.by_key()["ratio"]

    with pytest.raises(TypeError, match="Ratio tells no ohms"):
        ratio.model_construct().ohms_read()


def test_a_rectified_pair_is_checked_like_any_other():
    """Direct volts behind a rectifier on leads that are not there are refused."""
    direct = {
        "kind": "direct",
        "driven": ["A", "B"],
        "driven_volts": 230.0,
        "rectified": ["C", "Z"],
        "rectifier": "bridge",
        "direct_volts": 16.2,
    }
    with pytest.raises(FieldError, match="rectified names lead Z"):
        parse_record(piece("ABCD", [direct]))
