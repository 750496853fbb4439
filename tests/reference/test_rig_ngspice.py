"""Rigs worked by ngspice from the very netlist that the program exports: RMS within 1 %, peaks
within 2 %, at every joint. Ten by name, fifty drawn by a seed.
"""

import os
import re
import shutil
import subprocess

import numpy as np
import pytest

from greyfell.core.chain.elements import parse_rig
from greyfell.core.chain.solving import exported, in_time
from greyfell.core.errors import FieldError
from tests.reference.test_ngspice import spice

pytestmark = pytest.mark.skipif(
    shutil.which("ngspice") is None, reason="ngspice is not installed: apt-get install ngspice"
)
SUPPLY = {"volts": 230.0, "hertz": 50.0, "ohms": 0.4}
OVEN = {
    "volts": 230.0,
    "hertz": 50.0,
    "ratio": 9.1,
    "primary_ohms": 1.6,
    "secondary_ohms": 110.0,
    "leakage_henries": 0.045,
    "idle_amps": 1.5,
    "core_watts": 60.0,
    "shunt_volts": 90.0,
    "bond": "end",
}
SIGN = {
    "volts": 230.0,
    "hertz": 50.0,
    "ratio": 35.0,
    "primary_ohms": 9.0,
    "secondary_ohms": 9000.0,
    "leakage_henries": 0.7,
    "idle_amps": 0.35,
    "core_watts": 18.0,
    "bond": "middle",
    "winding_farads": 2e-10,
}
MAINS = {
    "volts": 230.0,
    "hertz": 50.0,
    "ratio": 0.0574,
    "primary_ohms": 12.0,
    "secondary_ohms": 0.08,
    "leakage_henries": 0.02,
    "idle_amps": 0.06,
    "core_watts": 4.0,
}
BALLAST = {"kind": "ballast", "short_amps": 5.0, "at_volts": 230.0, "at_hertz": 50.0, "ohms": 2.0}
NAMED = {
    "a ballasted short": {"ahead": [BALLAST], "piece": OVEN, "load": {"kind": "short"}},
    "iron that saturates, idle": {"piece": OVEN},
    "a half-wave doubler": {
        "piece": OVEN,
        "behind": [
            {"kind": "rectifier", "rectifier": "doubler", "stage_farads": 1e-6, "diode_volts": 8.0},
            {"kind": "reservoir", "farads": 5e-7},
        ],
        "load": {"kind": "resistor", "ohms": 5e4},
    },
    "a bridge with its reservoir": {
        "piece": MAINS,
        "behind": [
            {"kind": "rectifier", "rectifier": "bridge"},
            {"kind": "reservoir", "farads": 4.7e-3},
        ],
        "load": {"kind": "resistor", "ohms": 20.0},
    },
    "a capacitor in series, above resonance": {
        "piece": OVEN,
        "behind": [{"kind": "capacitor", "farads": 3e-7}],
        "load": {"kind": "resistor", "ohms": 8e3},
    },
    "a capacitor in series, below resonance": {
        "piece": OVEN,
        "behind": [{"kind": "capacitor", "farads": 8e-6}],
        "load": {"kind": "resistor", "ohms": 8e3},
    },
    "a sign transformer into a short": {"piece": SIGN, "load": {"kind": "short"}},
    "a sign transformer into 100 kΩ": {"piece": SIGN, "load": {"kind": "resistor", "ohms": 1e5}},
    "a lamp with an oven primary": {
        "ahead": [{"kind": "lamp", "watts": 200.0, "volts": 230.0}],
        "piece": OVEN,
    },
    "a choke with a gap, saturating": {
        "ahead": [{"kind": "choke", "henries": 0.1, "ohms": 1.5, "saturates_amps": 4.0}],
        "piece": OVEN,
        "load": {"kind": "short"},
    },
    "a two-stage multiplier": {
        "piece": SIGN | {"bond": "end", "ratio": 4.0, "secondary_ohms": 400.0},
        "behind": [
            {"kind": "rectifier", "rectifier": "multiplier", "stages": 2, "stage_farads": 2e-7},
            {"kind": "reservoir", "farads": 1e-7},
        ],
        "load": {"kind": "resistor", "ohms": 2e6},
    },
    "a variac ahead of a sign transformer with an arc": {
        "ahead": [{"kind": "variac", "fraction": 0.6}, BALLAST],
        "piece": SIGN,
        "load": {"kind": "arc", "volts": 1200.0},
    },
}


SECONDS = 15
WAYS = (
    "method=gear gmin=1e-9",
    "method=trap gmin=1e-9",
    "method=gear gmin=1e-9 abstol=1e-8 chgtol=1e-11",
)
"""Settings of the simulator, taken in turn where it gives up; its junctions leak as ours do."""


def referee(folder, rig, *, cycles, steps):
    """RMS and peak at every joint, and RMS of the wall's amps, by ngspice; a spike of one step,
    where a diode shuts a coil off, is none.
    """
    for n, way in enumerate(WAYS):
        part = folder / str(n)
        part.mkdir()
        try:
            return asked(part, rig, way, cycles=cycles, steps=steps)
        except (AssertionError, subprocess.TimeoutExpired):
            continue
    pytest.skip("ngspice finds no end to this one, in none of its ways")


def asked(folder, rig, way, *, cycles, steps):
    """The same with one way of settings."""
    joints = in_time(rig).built.joints
    hertz = rig.supply.told("hertz")
    step = 1 / hertz / steps
    names = [f"p{k}" for k in range(len(joints))]
    wanted = [f"v({j.hot})" + (f"-v({j.cold})" if j.cold != "0" else "") for j in joints]
    lets = "\n".join(f"let {n} = {w}" for n, w in zip(names, wanted, strict=True))
    control = f"""
.options reltol=2e-4 {way}
.control
set wr_singlescale
option numdgt=10
tran {step:.9g} {cycles / hertz:.9g} {(cycles - 1) / hertz:.9g} {step:.9g} uic
{lets}
let wall = -i(VE)
linearize {" ".join(names)} wall
wrdata out.txt {" ".join(names)} wall
quit 0
.endc
.end
"""
    table = spice(folder, exported(rig, run=False).replace(".end\n", control), SECONDS)
    cycle = table[:-1, 1:]
    lasting = np.median([np.roll(np.abs(cycle), k, axis=0) for k in (-1, 0, 1)], axis=0)
    return np.sqrt(np.mean(cycle**2, axis=0)), lasting.max(axis=0)


def held(folder, rig, *, cycles=60, steps=400):
    """The worst departure of RMS and of peak, as shares; what is next to nothing beside the supply
    counts by the supply.
    """
    found = in_time(rig)
    rms, peak = referee(folder, rig, cycles=cycles, steps=steps)
    own = np.array([a.volts for a in found.joints] + [found.line.amps])
    tops = np.array([a.peak_volts for a in found.joints])
    least = np.array([1e-3 * max(own[:-1])] * len(tops) + [1e-3 * own[-1] + 1e-4])
    off_rms = np.abs(own - rms) / np.maximum(rms, least)
    off_peak = np.abs(tops - peak[:-1]) / np.maximum(peak[:-1], least[:-1])
    return float(off_rms.max()), float(off_peak.max())


@pytest.mark.parametrize("name", ["a bridge with its reservoir", "a lamp with an oven primary"])
def test_the_exported_file_runs_as_it_is_and_measures_the_same(name, tmp_path):
    """`ngspice -b` on the very file: it names an analysis, prints it, and its RMS are ours within
    1 %.
    """
    rig = parse_rig({"title": name, "supply": SUPPLY, **NAMED[name]})
    (tmp_path / "rig.cir").write_text(exported(rig))
    done = subprocess.run(
        ["ngspice", "-b", "rig.cir"],
        cwd=tmp_path,
        capture_output=True,
        text=True,
        timeout=4 * SECONDS,
        check=True,
    )
    measured = re.findall(r"^(?:volts\d+|amps)\s*=\s*(\S+)", done.stdout, re.M)
    found = in_time(rig)

    assert "Transient Analysis" in done.stdout
    own = [at.volts for at in found.joints] + [found.line.amps]
    assert [float(x) for x in measured] == pytest.approx(own, rel=0.01)


@pytest.mark.parametrize("name", NAMED)
def test_a_named_rig_agrees_with_ngspice(name, tmp_path):
    """RMS within 1 %, peaks within 2 %, of every joint and of the wall's amps."""
    rig = parse_rig({"title": name, "supply": SUPPLY, **NAMED[name]})
    rms, peak = held(tmp_path, rig)
    if peak >= 0.02:
        fine = tmp_path / "fine"
        fine.mkdir()
        rms, peak = held(fine, rig, steps=1600)

    assert rms < 0.01
    assert peak < 0.02


def drawn(rng):
    """A rig drawn at random: any order and number of elements that the row allows."""

    def some(low, high):
        return float(np.exp(rng.uniform(np.log(low), np.log(high))))

    kinds = {
        "lamp": lambda: {"watts": some(60, 1000), "volts": 230.0},
        "ballast": lambda: {
            "short_amps": some(1, 8),
            "at_volts": 230.0,
            "at_hertz": 50.0,
            "ohms": some(0.5, 5),
        },
        "choke": lambda: {
            "henries": some(0.03, 0.3),
            "ohms": some(0.5, 4),
            "saturates_amps": some(2, 12),
        },
        "reactor": lambda: {"henries": some(0.03, 0.3), "ohms": 1.0},
        "resistor": lambda: {"ohms": some(3, 80)},
        "variac": lambda: {"fraction": float(rng.uniform(0.3, 1.1))},
        "capacitor": lambda: {"farads": some(5e-8, 1e-6)},
    }

    def element(kind):
        return {"kind": kind, **kinds[kind]()}

    ahead = [
        element(str(rng.choice(["lamp", "ballast", "choke", "reactor", "resistor", "variac"])))
        for _ in range(rng.integers(0, 4))
    ]
    piece = [OVEN, SIGN, MAINS][rng.integers(0, 3)]
    scale = piece["ratio"] ** 2
    behind, rectified = [], rng.random() < 0.45
    if rng.random() < 0.3:
        behind.append({"kind": "choke", "henries": 0.1 * scale, "ohms": scale})
    elif rng.random() < 0.3:
        behind.append({"kind": "capacitor", "farads": some(3e-6, 3e-5) / scale})
    if rectified:
        how = str(rng.choice(["half-wave", "doubler", "bridge", "centre-tap", "multiplier"]))
        drop = 0.9 if piece["ratio"] < 1 else 8.0
        behind.append(
            {
                "kind": "rectifier",
                "rectifier": how,
                "diode_volts": drop,
                "stages": 2,
                "stage_farads": 2e-5 / scale,
            }
        )
        behind.append({"kind": "reservoir", "farads": some(1e-5, 1e-4) / scale})
        behind.append({"kind": "bleeder", "ohms": some(2e3, 2e4) * scale})
    loads = ["open", "resistor", "resistor"] if rectified else ["open", "short", "resistor", "arc"]
    kind = str(rng.choice(loads))
    load = {"kind": kind}
    if kind == "resistor":
        load["ohms"] = some(30, 3000) * scale
    if kind == "arc":
        load["volts"] = some(0.05, 0.4) * 230 * piece["ratio"]
    return {"supply": SUPPLY, "ahead": ahead, "piece": piece, "behind": behind, "load": load}


REFUSED = 0.34
"""No more than so large a share of them may be refused."""


def refusal(document):
    """Why a rig is refused; nothing where it is solved."""
    try:
        in_time(parse_rig(document))
    except FieldError as error:
        return error.sentence
    return ""


RIGS = int(os.environ.get("RIGS", "5"))
"""Rigs drawn by their seeds; more with `make rigs N=50`."""


@pytest.mark.parametrize("n", range(RIGS))
def test_a_rig_drawn_by_a_seed_agrees_or_is_refused_with_a_sentence(n, tmp_path):
    """Whatever the row allows is solved as ngspice solves it, or refused by a field."""
    document = drawn(np.random.default_rng([13, n]))
    said = refusal(document)
    if said:
        assert said.endswith(".")
        return
    rig = parse_rig(document)
    rms, peak = held(tmp_path, rig)
    if rms >= 0.01 or peak >= 0.02:
        fine = tmp_path / "fine"
        fine.mkdir()
        rms, peak = held(fine, rig, cycles=150, steps=1600)
    assert rms < 0.01
    assert peak < 0.02


def test_most_rigs_drawn_by_a_seed_are_solved():
    """Refusing everything would agree with anything."""
    told = [refusal(drawn(np.random.default_rng([13, n]))) for n in range(RIGS)]

    assert sum(map(bool, told)) <= REFUSED * RIGS
