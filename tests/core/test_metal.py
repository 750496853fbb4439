"""Copper or aluminium: what to scrape, weigh and reckon, on a bench without a label."""

import pytest

from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.telling.copper_or_aluminium import metres, telling
from tests.conftest import piece


def told(readings, **lead):
    """The ways to tell that a lead's winding is offered."""
    leads = [{"id": "A", **lead}, {"id": "B"}, {"id": "C"}]
    ident = identify(parse_record({**piece("ABC", readings), "leads": leads}))
    return telling(ident, ident.record.leads[0])


def test_a_hundred_metres_of_a_square_millimetre_are_what_the_standards_say():
    """REF-W-02a: 1.724 Ω of copper, IEC 60028; aluminium 2.826 Ω, IEC 60889."""
    assert metres(1.724, 1.12838, "copper") == pytest.approx(100, rel=1e-3)
    assert metres(2.8264, 1.12838, "aluminium") == pytest.approx(100, rel=1e-3)


def test_the_metres_of_either_metal_stand_where_ohms_and_wire_are_known():
    """2.0 Ω at 1.0 mm: 91 m of copper, 56 m of aluminium, each inside the range said."""
    scraped, reckoned, weighed = told([("A", "B", 2.0)], wire_mm=1.0)

    assert "red all through" in scraped
    assert "of copper or" in reckoned
    assert "0.89 kg in copper, 0.27 kg in aluminium" in weighed


@pytest.mark.parametrize(
    ("readings", "lead"),
    [([("A", "B", 2.0)], {}), ([], {"wire_mm": 1.0}), ([("B", "C", 2.0)], {"wire_mm": 1.0})],
)
def test_without_ohms_or_wire_no_metres_are_said(readings, lead):
    """Scraping and weighing are left."""
    assert len(told(readings, **lead)) == 2


def test_a_metal_on_record_is_not_asked_again():
    """What was scraped is known."""
    assert told([("A", "B", 2.0)], wire_mm=1.0, material="aluminium") == ()
