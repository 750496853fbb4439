"""A fault the readings show, and the table of fault codes with their words.

Each kind stands here once: what is said beside a reading and on the shelf, how the reading is taken
again, what clears it. Conditions and thresholds stand with the rules, in `faults` and `shorts`.
"""

from typing import Any, Literal

from msgspec import Struct

Severity = Literal["note", "caution", "stop"]
GRAVEST: dict[Severity, int] = {"stop": 0, "caution": 1, "note": 2}
"""Order in which faults are told."""


class Fault(Struct, frozen=True):
    """A fault the readings show: code and severity of the format, leads, readings, and a sentence
    with what to check. No statement lifts a `firm` one, however grave it is.
    """

    code: str
    severity: Severity
    leads: tuple[str, ...]
    readings: tuple[str, ...]
    sentence: str
    firm: bool = False

    @property
    def words(self) -> str:
        """The code as words."""
        return self.code.replace("-", " ")

    @property
    def ends(self) -> str:
        """Its first leads, as they are said; where it has none, its readings."""
        return "–".join(self.leads[:3]) or ", ".join(self.readings[:3]) or "the record"

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        return {
            "code": self.code,
            "severity": self.severity,
            "leads": list(self.leads),
            "readings": list(self.readings),
            "sentence": self.sentence,
        }


class FaultKind(Struct, frozen=True, kw_only=True):
    """What is said of every fault of one code; the sentence with its figures is the rule's.

    `condition` says in words when it stands, `instead` what is done meanwhile. `beside` stands
    beside the reading, `headline` on the shelf; `again` says how the reading behind it is taken
    again before anything is built on it, `clears` what clears it, `clearing` the kind of that
    reading; `must_be_open` marks what an ohmmeter must read open; `beside_it` what is joined to the
    piece and not its own: it stops, and does not condemn. `source` is of the rule, `ids` are the
    numbers of the catalogue of hazards that it meets.
    """

    code: str
    condition: str
    instead: str
    beside: str
    headline: str
    again: str
    clears: str
    source: str
    clearing: str = "resistance"
    must_be_open: bool = False
    beside_it: bool = False
    ids: tuple[str, ...] = ()


KINDS = (
    FaultKind(
        code="earth-on-winding",
        condition="an earth, or a lead in its colours, conducts to what may be the mains winding",
        instead="Power nothing: what is earthed would stand at the mains.",
        beside="the earth is on a winding: stop",
        headline="earth on a winding",
        again="the earth's lead free of everything, clean probes, lowest range upward",
        clears="The same pair read open on the highest range, after the two were parted.",
        source="IEC 60335-1, from memory; common practice",
        must_be_open=True,
    ),
    FaultKind(
        code="shorted-to-core",
        condition="what conducts to the core is not an HV winding on its return",
        instead="Power nothing: the iron would stand at the volts of the winding.",
        beside="conducts to the core: stop",
        headline="winding to the core",
        again="leads free of everything, clean probes, bare metal, highest range",
        clears="The same pair read open on the highest range.",
        source="common practice; IEC 61558-1 cl. 18 asks basic insulation there",
        must_be_open=True,
    ),
    FaultKind(
        code="windings-shorted",
        condition="windings that should be apart conduct, or one has leads that cannot be its own",
        instead="Power nothing: one winding would stand at the volts of the other.",
        beside="separate windings conduct: stop",
        headline="windings shorted",
        again="any link taken off, clean probes, highest range",
        clears="The same pair read open on the highest range.",
        source="common practice",
        must_be_open=True,
    ),
    FaultKind(
        code="capacitor-connected",
        condition="the ohms of an oven capacitor's own bleeder where it must read open",
        instead="Take it for charged: discharge, short, measure; then take it off.",
        beside="an oven capacitor's bleeder: still connected",
        headline="capacitor connected",
        again="capacitor discharged, shorted, its leads off, fingers off the probes, highest range",
        clears="The same pair read open on the highest range.",
        source="REF-R-T3: a bleeder of 9 to 12 MΩ inside; common practice",
        must_be_open=True,
        beside_it=True,
    ),
    FaultKind(
        code="filter-connected",
        condition="the ohms of a mains filter's bleeder between two leads that no winding joins",
        instead="Take it for charged: discharge, short, measure; then take the filter off.",
        beside="a filter's bleeder: still connected",
        headline="filter connected",
        again="filter discharged, shorted, its leads off, fingers off the probes",
        clears="The same pair read without the filter: a winding's ohms, or open.",
        source="REF-H H94: 0.1 to 1 MΩ across the leads; common practice",
        beside_it=True,
        ids=("H94",),
    ),
    FaultKind(
        code="insulation-low",
        condition="megohms below the limit of the test where it must read open",
        instead="Power nothing until it is dry and reads open.",
        beside="leaks: must read open",
        headline="insulation low",
        again=(
            "a day somewhere warm and dry, fingers off the probes, "
            "highest range or an insulation tester"
        ),
        clears="An open reading of the same pair, dry, on the highest range.",
        source="REF-H, IEC 61558-1 and IEC 60335-1 (from memory)",
        must_be_open=True,
    ),
    FaultKind(
        code="open-winding",
        condition="leads that should be two ends conduct to nothing",
        instead="Nothing is fed through it; a cut-out under the tape is the usual place.",
        beside="open: this winding is broken",
        headline="winding open",
        again=(
            "both ends scraped bare, a thermal cut-out looked for under the tape, "
            "lowest range upward"
        ),
        clears="Ohms between its ends.",
        source="common practice",
    ),
    FaultKind(
        code="shorted-turns",
        condition="what was read makes them likelier than one in seven",
        instead="Nothing goes on the mains; a loop heats in seconds, behind a lamp only.",
        beside="shorted turns",
        headline="shorted turns",
        again="everything off every lead and out of the window, inductance and Q at 100 or 120 Hz",
        clears="Inductance and Q of sound iron with nothing joined on.",
        source="Bayes' rule over inductance, Q, watts, amps, ratio and lamp; common practice",
        clearing="inductance",
    ),
    FaultKind(
        code="excess-no-load-current",
        condition="watts or amps at no load far above what this iron explains",
        instead="Off at once if anything warms; half the volts first.",
        beside="excess no load current",
        headline="excess no-load current",
        again="cooled down, at half the volts, watts as well as amps",
        clears="Usual watts and amps at no load.",
        source="M-T1, M-T4 and M-18; broad",
        clearing="no_load",
    ),
    FaultKind(
        code="ratio-conflict",
        condition="a ratio, or turns, far from what everything else lets expect",
        instead="Nothing is built on these volts until the ratio was repeated.",
        beside="ratio conflict",
        headline="ratio conflict",
        again="both volts in the same minute, the line noted",
        clears="A ratio that fits the rest, or the slip struck out.",
        source="JCGM 100:2008 for the limits; Bayes' rule",
        clearing="ratio",
    ),
    FaultKind(
        code="ohms-out-of-band",
        condition="ohms far from what everything else lets expect",
        instead="Nothing is built on these ohms until they were read again.",
        beside="unlikely: is that a slip?",
        headline="ohms out of band",
        again="probes zeroed, one fixed range, a small direct current where ohms are few",
        clears="Ohms that fit the rest, or the slip struck out.",
        source="expectations of the trade, common practice",
    ),
    FaultKind(
        code="inconsistent-readings",
        condition="ohms that do not add up or exclude each other, or a plate or look far off",
        instead="Nothing is built on either until the pair was read again.",
        beside="does not add up with the others",
        headline="inconsistent readings",
        again="probes zeroed, one fixed range",
        clears="Readings that add up, or the slip struck out.",
        source="Kirchhoff; JCGM 100:2008 4.3.7 for the limits",
    ),
    FaultKind(
        code="contradiction",
        condition="two readings of what cannot change that cannot both be true",
        instead="Nothing is joined or powered on either until a third reading decided.",
        beside="contradicts another reading",
        headline="contradiction",
        again="the same points in the same way, once more",
        clears="A third reading that bears one of them out, or the slip struck out and read again.",
        source="logic; the sitting and the factor of ratios are house rules",
    ),
    FaultKind(
        code="earth-bond",
        condition="earth to the core above a tenth of an ohm where the core must be earthed",
        instead="Power nothing: the core floats to the volts of the winding that returns on it.",
        beside="a bond has a tenth of an ohm",
        headline="earth bond bad",
        again="bare metal under the lug, 1 A or more passed, volts at the bond itself",
        clears="At most 0.1 Ω by volts over 1 A or more.",
        source="IEC 60335-1 cl. 27.5 (from memory)",
        beside_it=True,
        clearing="dc_drop",
    ),
    FaultKind(
        code="leakage-current",
        condition="more current to earth than may be touched",
        instead="Touch nothing of it while powered: it does not isolate.",
        beside="more than may be touched",
        headline="leakage current",
        again="both ways of the plug, through a 2 kΩ resistor and a fuse, leads named",
        clears="Touch current under a quarter of a milliampere.",
        source="IEC 60990 and IEC 60335-1 cl. 13 (from memory)",
        clearing="leakage_current",
    ),
    FaultKind(
        code="runs-hot",
        condition="a soak at no load warmed the winding beyond its insulation, or beyond its watts",
        instead="Off, and cold again before anything else; nothing is left on unwatched.",
        beside="warmer than it may be",
        headline="runs hot",
        again="cold for some hours first; minutes noted, ohms within seconds of switching off",
        clears="A soak of 20 minutes whose ohms stay within the watts it takes.",
        source="REF-W-03; IEC 60085 class A (from memory)",
        clearing="soak",
    ),
    FaultKind(
        code="hot-joint",
        condition="a part of a path takes more watts than a joint sheds",
        instead="Seconds only, until it was mended.",
        beside="it takes more watts than it sheds",
        headline="hot joint",
        again="probes on the metal either side of it, the amps read in the same second",
        clears="Fewer millivolts over it at the same amps.",
        source="common practice, from memory",
        clearing="path",
    ),
    FaultKind(
        code="unexpected-zero",
        condition="nothing read where volts or amps must be",
        instead="Nothing is built on a zero until the meter was proved.",
        beside="nothing where something must be: prove the meter",
        headline="unexpected zero",
        again="the meter proved on a known source first: mode, jack, range, fuse",
        clears="A figure within its band by a proved meter.",
        source="common practice",
        clearing="ratio",
    ),
    FaultKind(
        code="unsafe-reading",
        condition="a reading that was an unsafe act in itself",
        instead="Take it another way; the sentence says how.",
        beside="read like this it can hurt",
        headline="unsafe reading",
        again="as the sentence says",
        clears="It stays beside the reading.",
        source="IEC 61010-1; common practice",
    ),
    FaultKind(
        code="not-weighed",
        condition="something on record could not be weighed and was left out",
        instead="Power nothing: what was left out may be what matters.",
        beside="could not be weighed: left out",
        headline="not weighed",
        again="as it is typed, figure and unit looked at twice",
        clears="What was left out struck out or corrected, and read again.",
        source="house rule",
    ),
)
FAULTS: dict[str, FaultKind] = {kind.code: kind for kind in KINDS}
"""Every code a rule may give, by code."""
PLACE = {code: n for n, code in enumerate(FAULTS)}
"""Of equally grave faults the first of the table is told first."""
