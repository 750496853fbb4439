"""What all pieces have in common before anything is known of them; what each family is usually like
stands in `families`.

Everything here is a broad expectation of the trade, not a standard.
"""

import math

MAINS_ROLES = ("primary", "primary-half")
"""Roles of windings that carry the mains."""
SMALL_ROLES = ("lv-secondary", "filament", "bias")
"""Roles of windings that put out little."""
VARNISHED = 0.2
"""How often "bare" iron under a probe is varnish: an open reading to a core not proved says that
much less. From memory."""
MISSED = 0.01
"""How often a probe on a lead does not reach its metal all the same. From memory."""
MASS_A = (5.6e-4, 1.5)
"""ln(R/V²) of a primary falls with kilograms of iron: a = ln 5.6e-4 − 1.5 ln kg. REF-M-05, from
memory, ± 50 %."""
OTHER_REGION = 0.03
"""How often a piece was made for the other region's mains (120 V on a 230 V bench, or the reverse).
Common practice."""
FLUX_EXPONENT = 0.47
"""v falls with a: ln v = ln v0 − 0.47 (a − a0). From M-04 and M-05 (A ∝ √S, regulation falling with
size)."""
A0, V0 = math.log(8e-5), math.log(0.60)
"""Anchor of that line: at a = ln 8e-5 (some 120 VA) ln v0 of 0.60 V per turn. From memory, ± 15
%."""
