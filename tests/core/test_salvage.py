"""The gate of salvage: every step in its order and with its time, the hold by the chain that was
read, volts that lead back; nothing is filled in.
"""

from datetime import datetime, timedelta

import pytest

from greyfell.core.errors import FieldError
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.gates import salvaged
from greyfell.core.steps.salvage import STEPS, take, walk
from tests.conftest import piece

START = datetime.fromisoformat("2026-05-01T18:00:00+01:00")
TYPED = {"found": "0.95µF", "chain": "100k", "measured": "0.4", "again": "0.6"}


class Bench:
    """Somebody walking the gate, with a clock of their own."""

    def __init__(self):
        self.statements = []
        self.now = START

    def record(self):
        return parse_record(piece("AB", statements=self.statements, declared_family="microwave"))

    def walk(self):
        return walk(self.record().statements)

    def take(self, value=None, after=0.0, step=None):
        """The next step, so many seconds later."""
        done = self.walk()
        self.now += timedelta(seconds=after)
        key = step or done.here.key
        given = {"step": key, "value": TYPED.get(key, "") if value is None else value}
        self.statements += take(done, given, self.now)

    def upto(self, key):
        """Every step before one, each as it should be."""
        while self.walk().here is not None and self.walk().here.key != key:
            self.take(after=400.0)
        return self


def test_ten_steps_in_their_order_end_the_salvage():
    """All of them, each with its time: the record then says what was measured, and the gate of the
    piece no longer asks.
    """
    bench = Bench().upto("")

    assert [t.step.key for t in bench.walk().taken] == [s.key for s in STEPS]
    assert bench.walk().here is None
    assert bench.statements[-1]["kind"] == "salvage-done"
    assert bench.statements[-1]["text"] == (
        "discharged, shorted, 400 mV, 600 mV after 7 min, short left on"
    )
    assert salvaged(identify(bench.record()))


@pytest.mark.parametrize("step", [s.key for s in STEPS])
def test_no_step_is_taken_out_of_its_order_and_the_gate_stays_shut_before_the_last(step):
    """Any other step is refused; short of the last one nothing is salvaged."""
    bench = Bench().upto(step)
    for other in STEPS:
        if other.key != step:
            with pytest.raises(FieldError, match="not the next"):
                bench.take(step=other.key, value="1")

    assert not salvaged(identify(bench.record()))


@pytest.mark.parametrize(("volts", "back"), [("49.9", False), ("50", False), ("50.1", True)])
@pytest.mark.parametrize("at", ["measured", "again"])
def test_volts_above_the_limit_lead_back_to_the_hook(volts, back, at):
    """Fifty volts, at the first measuring and after the wait."""
    bench = Bench().upto(at)
    bench.take(volts, after=400.0)
    done = bench.walk()

    assert done.again is back
    assert (done.here.key == "holding") is back
    assert not back or not salvaged(identify(bench.upto("clip").record()))


def test_negative_volts_count_by_their_size():
    bench = Bench().upto("measured")
    bench.take("-900")

    assert bench.walk().again


@pytest.mark.parametrize(
    ("chain", "farads", "hold"),
    [
        ("100k", "0.95µF", 5.0),
        ("1M", "0.95µF", 9.5),
        ("1M", "", 12.5),
        ("0", "0.95µF", 5.0),
        ("10k", "100µF", 10.0),
    ],
)
def test_the_hold_is_ten_time_constants_of_what_was_read(chain, farads, hold):
    """At least five seconds; an unread label counts as the largest of an oven's. REF-R-06."""
    bench = Bench().upto("found")
    bench.take(farads)
    bench.take(chain)
    bench.take()
    _, seconds = bench.walk().waits

    assert seconds == pytest.approx(hold)
    with pytest.raises(FieldError, match="Too early"):
        bench.take(after=hold - 0.1)
    bench.take(after=0.2)


@pytest.mark.parametrize(("after", "early"), [(299.0, True), (300.0, False)])
def test_the_second_measuring_waits_five_minutes(after, early):
    bench = Bench().upto("again")
    if early:
        with pytest.raises(FieldError, match="1 s are still to go"):
            bench.take(after=after)
    else:
        bench.take(after=after)
        assert bench.walk().here.key == "clip"


@pytest.mark.parametrize(
    ("step", "value", "words"),
    [
        ("chain", "", "ohms of the chain"),
        ("chain", "OL", "reads open discharges nothing"),
        ("chain", "999", "A chain has"),
        ("chain", "2.1M", "A chain has"),
        ("chain", "much", "number"),
        ("measured", "", "the volts it shows"),
        ("measured", "none", "number"),
        ("found", "5", "Microfarads"),
        ("found", "-1µF", "Microfarads"),
    ],
)
def test_what_is_typed_wrongly_is_said_and_no_step_is_taken(step, value, words):
    """A chain that reads open shuts the gate; no figure is filled in."""
    bench = Bench().upto(step)
    before = list(bench.statements)
    with pytest.raises(FieldError, match=words):
        bench.take(value)

    assert bench.statements == before


@pytest.mark.parametrize("ohms", ["1k", "2M"])
def test_a_chain_at_its_bounds_is_taken(ohms):
    bench = Bench().upto("chain")
    bench.take(ohms)

    assert bench.walk().here.key == "holding"


def test_a_step_without_its_time_or_out_of_order_counts_for_nothing():
    """As a record from elsewhere may say it."""
    bench = Bench().upto("chain")
    odd = [
        {"kind": "salvage-step", "concerns": "clip"},
        {"kind": "salvage-step", "concerns": "chain"},
    ]
    bench.statements += odd

    assert bench.walk().here.key == "chain"
