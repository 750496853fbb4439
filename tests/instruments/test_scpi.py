"""Instruments that type for you: stand-ins and an independent simulator through the same driver;
every fault ends in a sentence, no figure is lost, none is invented; nothing sent switches a source.
"""

import time

import pytest
import pyvisa

from greyfell.core.errors import FieldError
from greyfell.core.evidence.jotter import read_line
from greyfell.core.figures.notation import parse_quantity
from greyfell.instruments.bench import stand_ins
from greyfell.instruments.declared import FORBIDDEN, INSTRUMENTS, commands, instrument_of
from greyfell.instruments.driver import NoFigure, read, read_all
from greyfell.instruments.reach import METADATA, checked_address, reached
from greyfell.instruments.standin import FAULTS, Device, StandIn
from tests.conftest import every

METER = instrument_of("multimeter")
QUICK = METER.__class__(
    key=METER.key,
    title=METER.title,
    known_by=METER.known_by,
    functions=METER.functions,
    seconds=0.4,
)
"""The same multimeter with less patience, for what never answers."""


def standing(fault="none", ohms=1.3021, latency=0.0):
    """A multimeter on this machine that reads a resistance."""
    values = {key: (lambda: ohms) for key in METER.functions}
    return StandIn(Device(instrument=METER, values=values, fault=fault, latency=latency))


def only(key, seconds):
    """One of the bench's stand-ins; the others are put away."""
    bench = stand_ins(seconds=seconds)
    for other in bench:
        if other.device.instrument.key != key:
            other.server_close()
    return next(s for s in bench if s.device.instrument.key == key)


# ------------------------------------------------------------------------ good readings


def test_a_figure_comes_as_it_was_sent_with_unit_and_limits():
    """Set to the function, read, and as a line of the jotter with its accuracy."""
    with standing() as meter:
        taken = read(meter.address, METER, "ohms")

    assert taken.value == pytest.approx(1.3021)
    assert taken.line == "1.30210 ±0.05%"
    assert meter.device.heard == ["*IDN?", "CONF:RES", "READ?", "*IDN?"]
    line = read_line(f"A-B {taken.line}", {"A", "B"})
    assert line.reading["ohms"] == pytest.approx(1.3021)
    assert line.reading["percent"] == 0.05


@pytest.mark.parametrize("instrument", INSTRUMENTS, ids=lambda i: i.key)
def test_every_function_of_every_class_is_read_of_its_stand_in(instrument):
    """On the sample bell transformer; a figure or open, never an error."""
    with only(instrument.key, seconds=5.0) as bench:
        for key in instrument.functions:
            taken = read(bench.address, instrument, key)
            assert taken.over or taken.value == float(taken.text)


def test_watts_of_a_winding_up_come_together_and_rise():
    """Volts, amps and watts of one moment; later, more of each."""
    meter = instrument_of("wattmeter")
    with only("wattmeter", seconds=0.8) as bench:
        first = read_all(bench.address, meter, ["volts", "amps", "watts"])
        time.sleep(0.4)
        later = read_all(bench.address, meter, ["volts", "amps", "watts"])

    assert [t.unit for t in first] == ["V", "A", "W"]
    assert every(b.value > a.value for a, b in zip(first, later, strict=True))


def test_latency_is_waited_for():
    """A third of a second an answer."""
    with standing(latency=0.15) as meter:
        assert read(meter.address, METER, "ohms").value == pytest.approx(1.3021)


# ------------------------------------------------------------------------------ faults


def test_beyond_the_range_is_open_and_no_figure():
    """9.9E37 is never entered as ohms."""
    with standing("over") as meter:
        taken = read(meter.address, METER, "ohms")

    assert taken.over
    assert taken.line == "open"


@pytest.mark.parametrize(
    ("fault", "words"),
    [
        ("garbage", "is no figure"),
        ("silence", "No answer in time"),
        ("late", "No answer in time"),
        ("drop", "nothing was taken"),
        ("other", "that is no bench multimeter"),
        ("chatty", "nobody asked for"),
        ("greeting", "does not say its name"),
    ],
)
def test_a_fault_ends_in_its_sentence_and_gives_no_figure(fault, words):
    """And the next reading, with the fault gone, is right: no late answer is taken for it."""
    with standing(fault) as meter:
        with pytest.raises(NoFigure) as told:
            read(meter.address, QUICK, "ohms")
        meter.device.fault = "none"
        again = read(meter.address, METER, "volts-dc")

    assert words in told.value.sentence
    assert again.value == pytest.approx(1.3021)


def test_every_fault_of_a_stand_in_is_tried_here():
    """None is left out."""
    tried = {"none", "over", "garbage", "silence", "late", "drop", "other"}
    tried |= {"stale", "chatty", "greeting"}

    assert tried == set(FAULTS)


def test_what_lay_on_the_line_is_drained_before_a_reading():
    """A line left over from before is never the figure."""
    with standing("stale") as meter:
        taken = read(meter.address, METER, "ohms")

    assert taken.value == pytest.approx(1.3021)


def test_a_line_sent_between_question_and_answer_is_never_a_figure():
    """Nine ohms and something that nobody asked for, then the answer: neither is taken."""
    with standing("chatty") as meter, pytest.raises(NoFigure) as told:
        read(meter.address, QUICK, "ohms")

    assert "9.99" not in told.value.sentence


def test_a_foreign_greeting_is_not_shown():
    """Only what has the shape of an identification: IEEE 488.2 section 10.14."""
    with standing("greeting") as meter, pytest.raises(NoFigure) as told:
        read(meter.address, QUICK, "ohms")

    assert "password" not in told.value.sentence


def test_a_name_that_is_not_known_is_said():
    """`.invalid` never resolves: RFC 2606."""
    with pytest.raises(FieldError, match="not known on this network"):
        read("TCPIP::no-such-host.invalid::5025::SOCKET", QUICK, "ohms")


@pytest.mark.parametrize("host", [*sorted(METADATA), "2852039166", "0xa9fea9fe", "0.0.0.0"])
def test_a_machines_own_keys_are_never_asked(host):
    """In whichever form the number is written, here or elsewhere."""
    with pytest.raises(FieldError, match="never asked"):
        checked_address(f"TCPIP::{host}::80::SOCKET")


def test_a_link_local_address_is_asked_at_this_machine_only():
    """RFC 3927; one number before the range any machine may ask."""
    address = "TCPIP::169.254.7.9::5025::SOCKET"

    assert reached(address, here=True) == address
    with pytest.raises(FieldError, match="at this machine only"):
        reached(address, here=False)
    assert reached("TCPIP::169.253.255.255::5025::SOCKET", here=False)


def test_a_name_is_looked_up_once_and_its_number_is_opened():
    """A name that changes its answer leads nowhere else."""
    assert reached("TCPIP::localhost::5025::SOCKET", here=False).startswith("TCPIP::127.")


@pytest.mark.parametrize(("port", "fits"), [(0, False), (1, True), (65535, True), (65536, False)])
def test_a_port_has_sixteen_bits(port, fits):
    """Just below and just above."""
    address = f"TCPIP::127.0.0.1::{port}::SOCKET"
    if fits:
        assert checked_address(address) == address
    else:
        with pytest.raises(FieldError, match="Port must be"):
            checked_address(address)


def test_nobody_there_is_said():
    """A port that nobody listens on."""
    with standing() as meter:
        gone = meter.address
    with pytest.raises(NoFigure, match="Nobody answers"):
        read(gone, QUICK, "ohms")


def test_of_several_figures_all_come_or_none():
    """Garbage in the second: the first is not taken either."""
    meter = instrument_of("wattmeter")
    count = iter([230.0])
    values = {"volts": lambda: next(count), "amps": lambda: 1e30, "watts": lambda: 1.0}
    with StandIn(Device(instrument=meter, values=values, latency=0.0)) as there:
        found = read_all(there.address, meter, ["volts", "amps"])
        assert found[1].over
        there.device.fault = "garbage"
        with pytest.raises(NoFigure):
            read_all(there.address, meter, ["volts", "amps"])


@pytest.mark.parametrize("value", ["1.3.1", "", "nan", "inf", "1,3", "0x10", "1e", "OVLD", "5\x00"])
def test_what_is_no_figure_is_never_one(value):
    """Whatever an instrument may send instead."""
    device = Device(instrument=METER, values={}, latency=0.0)
    device._figure = lambda *_: value
    with StandIn(device) as meter, pytest.raises(NoFigure):
        read(meter.address, QUICK, "ohms")


@pytest.mark.parametrize(
    "address",
    [
        "",
        "1.2.3.4",
        "TCPIP::a b::1::SOCKET",
        "GPIB0::4::INSTR",
        "file:///etc",
        "TCPIP::x::1234567::SOCKET",
    ],
)
def test_an_address_that_is_none_is_refused(address):
    """By its field, before anything is opened."""
    with pytest.raises(FieldError) as told:
        checked_address(address)
    assert told.value.field == "address"


def test_a_function_or_class_that_is_none_is_refused_by_name():
    """With those there are."""
    with pytest.raises(FieldError, match="reads ohms"):
        METER.function("smell")
    with pytest.raises(FieldError, match="multimeter"):
        instrument_of("oscillator")


# ------------------------------------------------------------------- reading only


def test_nothing_that_is_sent_can_put_power_on_anything():
    """No output, no source, no level is ever set; the words would be seen."""
    assert every(not FORBIDDEN.search(c) for c in commands())
    assert every(c.startswith("CONF:") or c.endswith("?") for c in commands())
    for bad in ("OUTP ON", "SOUR:VOLT 5", "VOLT 12", "APPL 5,1", "OUTP:STAT 1"):
        assert FORBIDDEN.search(bad)


# ---------------------------------------------------------- an independent simulator

SIMULATED = """
spec: "1.1"
devices:
  meter:
    eom:
      TCPIP SOCKET:
        q: "\\n"
        r: "\\n"
    dialogues:
      - q: "*IDN?"
        r: "ACME,DMM 7,1,1"
      - q: "CONF:RES"
      - q: "CONF:VOLT:AC"
      - q: "READ?"
        r: "+9.60312E+01"
resources:
  TCPIP::localhost::5025::SOCKET:
    device: meter
"""


def test_an_independent_simulator_is_read_by_the_same_driver(tmp_path):
    """pyvisa-sim, which knows nothing of ours."""
    file = tmp_path / "meter.yaml"
    file.write_text(SIMULATED, encoding="utf-8")
    manager = pyvisa.ResourceManager(f"{file}@sim")
    taken = read("TCPIP::localhost::5025::SOCKET", METER, "ohms", manager)

    assert taken.value == 96.0312
    assert taken.named == "ACME,DMM 7,1,1"
    assert parse_quantity(taken.line.split()[0], "ohm", field="ohms") == 96.0312
