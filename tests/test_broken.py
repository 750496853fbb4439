"""The short forms of `make fuzz` and `make faults`: nothing but sentences comes back, and nothing
acknowledged is lost.
"""

import pytest

from scripts import faults, fuzz


@pytest.mark.parametrize("seed", [101])
def test_whatever_is_thrown_at_it_is_answered(seed):
    """Requests over all routes, records, lines, plans, rigs; half the writes reach the core."""
    counts = {"records": 110, "lines": 400, "planners": 80, "rigs": 40, "requests": 60}
    tally = fuzz.run(seed, counts)

    assert tally.bad == []
    assert tally.counts["record: taken"] > 8
    assert tally.counts["line: taken"] > 120
    assert tally.counts["rig: taken"] > 8
    share = next(k for k in tally.counts if "reached the core" in k)
    assert float(share.split("core, ")[1].split(" %")[0]) >= 50


@pytest.mark.parametrize(
    "fault",
    [
        faults.full_disk,
        faults.read_only,
        faults.removed,
    ],
    ids=lambda fault: fault.__name__,
)
def test_what_it_stands_on_may_break(fault):
    assert list(fault()) == []


def test_a_spoilt_page_is_named():
    assert list(faults.damaged(tries=1)) == []


def test_killed_in_the_middle_nothing_acknowledged_is_lost():
    assert list(faults.killed(1, 8)) == []
