"""What a load makes of an output, and how long it may go on."""

from greyfell.core.belief.found import Winding
from greyfell.core.circuit.model import LoadPoint
from greyfell.core.figures.constants import DAY_CELSIUS
from greyfell.core.figures.limits import BREAKER_HOLDS
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.identification import Identification

MINUTE = 60.0
LIMIT_CELSIUS = 105.0
"""Class A, enamel and paper of older iron. Common practice."""
NEVER_SECONDS = 3600.0
"""What would take longer than an hour is said so."""


def wants(ident: Identification) -> str:
    """What a model still needs, in words."""
    if ident.belief.primary is None:
        return "No primary is known: without it nothing is told of what it puts out."
    if ident.belief.primary.volts is None:
        return "The volts of its primary are not known: a ratio or a test turn tells them."
    return "No output's volts are known: a ratio at a low drive tells them."


def seconds_to_limit(
    ident: Identification, w: Winding, amps: Quantity, celsius: float = DAY_CELSIUS
) -> Quantity | None:
    """Seconds until a winding is as hot as it may be, from what it bears for a minute: heat goes by
    the square of the amps and nothing is given away; copper that is warm has so much less to go.
    REF-W-12. None where its rating is not known.
    """
    rating = ident.belief.ratings.get(w.id)
    if rating is None or amps.value <= 0:
        return None
    whole = MINUTE * min(1.0, max(0.0, (LIMIT_CELSIUS - celsius) / (LIMIT_CELSIUS - DAY_CELSIUS)))
    least = whole * (rating.minute.low / max(amps.high, 1e-12)) ** 2
    most = whole * (rating.minute.high / max(amps.low, 1e-12)) ** 2
    value = whole * (rating.minute.value / amps.value) ** 2
    return Quantity(value, min(least, value), max(most, value), rating.minute.basis)


def trips(ident: Identification, point: LoadPoint) -> bool | None:
    """Whether the supply's breaker trips, sooner or later; None where none is told."""
    amps = ident.record.supply.breaker_amps
    return None if amps is None else point.primary_amps.value > BREAKER_HOLDS * amps
