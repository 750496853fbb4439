"""What is never planned, in one list: one declaration each, with what in a wish, a rig or a plan is
that thing, why not, and what does the job instead.

Uses, goals, rigs, plans and a line that asks all look here. A word refuses only in a wish: what a
piece is called, what lay beside it, or a sentence that forbids the thing, refuses nothing. Figures
refuse by themselves, whatever they are called.
"""

import re
from collections.abc import Callable, Iterator

from msgspec import Struct

from greyfell.core.figures.limits import HV_WINDING_VOLTS, TOUCH_VOLTS
from greyfell.core.figures.touch import stores_hazard

ARC_RMS, ARC_PEAK, ARC_DC = 80.0, 113.0, 113.0
"""Open-circuit volts that a welder for ordinary places may have: AC RMS, its peak, and DC. IEC
60974-1, from memory of its table of rated no-load voltages."""
GLASS_VOLTS = 5e3
"""Peak volts from which evacuated glass may give X-rays, and beyond which volts are not multiplied
here. Common practice; radiation rules of most countries begin at 5 kV."""
NOTHING = "Nothing is planned."
STRAIGHT, DOUBLED = 1.5, 2.2
"""Up to these times the winding's peak a rectifier is plain, and one doubler, as ovens have; beyond
it is a stack.
"""
SAID = {
    "bled": "A bleeder stands across it for good",
    "enclosed": "Everything above 50 V is behind a cover that opens its switch",
    "proved": "Its volts are seen to fall before every touch",
}
"""What may be said of a rig or a plan that holds a charge; unsaid, it is not so."""


class Asked(Struct, frozen=True, kw_only=True):
    """What a rig or a plan is, in figures: the kind of its load, the most volts open at it (AC RMS,
    peak, DC), that DC over the winding's peak, what stays charged, what was said of covers, its
    words and those of its load.
    """

    words: str = ""
    load_words: str = ""
    load: str = ""
    open_rms: float = 0.0
    open_peak: float = 0.0
    open_dc: float = 0.0
    held_volts: float = 0.0
    held_joules: float = 0.0
    bled: bool = False
    enclosed: bool = False
    proved: bool = False
    electrodes: str = ""
    oven: bool = False
    sign: bool = False
    within_plate: bool = False
    times: float = 1.0
    resonant: bool = False


class Never(Struct, frozen=True, kw_only=True):
    """One thing that is never planned: its key, what it is, words of a wish, what figures are it,
    why not, what does the job instead or must be said of its figures, the source. `but` are words
    beside which its own mean something else, `loads` what a load is called that is the thing, above
    `loads_over` volts, `ids` numbers of the catalogue of hazards.
    """

    key: str
    title: str
    what: str
    words: tuple[str, ...]
    why: str
    instead: str
    is_it: Callable[[Asked], bool] = lambda asked: False
    but: str = ""
    loads: str = ""
    loads_over: float = TOUCH_VOLTS
    unless: str = ""
    ids: tuple[str, ...] = ()
    source: str = "common practice"

    @property
    def sentence(self) -> str:
        """Why not, and what instead."""
        return f"{self.why} {self.instead} {NOTHING}"

    @property
    def told(self) -> str:
        """The same of figures, behind what it is."""
        return f"{self.title}: {self.why} {self.unless or self.instead} {NOTHING}"


def _open_arc(a: Asked) -> bool:
    """An arc in the open above a welder's volts; a covered tube of a sign within its plate is
    none.
    """
    if a.load != "arc" or _sign_tube(a):
        return False
    peak = a.open_peak > ARC_PEAK and not a.open_dc
    return a.open_rms > ARC_RMS or peak or a.open_dc > ARC_DC


def _sign_tube(a: Asked) -> bool:
    """A covered, gas-filled tube on a sign's part within its plate: what signs are made of."""
    return a.electrodes == "gas-filled tube" and a.sign and a.within_plate and a.enclosed


def _exposed_oven(a: Asked) -> bool:
    high = max(a.open_rms, a.open_dc) > HV_WINDING_VOLTS
    return a.oven and high and (a.load == "arc" or not a.enclosed)


def _evacuated(a: Asked) -> bool:
    return a.electrodes == "evacuated bulb" and max(a.open_peak, a.open_dc) > GLASS_VOLTS


def _more_kilovolts(a: Asked) -> bool:
    stacked = a.times > DOUBLED and a.open_dc > GLASS_VOLTS
    doubled = a.times > STRAIGHT and a.open_dc > 2 * GLASS_VOLTS
    return stacked or doubled or (a.resonant and a.open_rms > HV_WINDING_VOLTS)


def _bank(a: Asked) -> bool:
    kept = a.bled and a.enclosed and a.proved
    return stores_hazard(a.held_volts, a.held_joules) and not kept


BODY = (
    r"(?:my|the|a|an|your|his|her|their|our|somebody['’]?s?|someone['’]?s?|people|person|"
    r"friends?|kids?|children|pupils?|brother|sister|dogs?|cats?|rats?|mice|mouse|horses?|cattle|"
    r"cows?|pigs?|animals?|burglars?|thie(?:f|ves)|intruders?)"
)
NEVER: tuple[Never, ...] = (
    Never(
        key="water",
        title="Electrodes in water, or on fish",
        what="volts where somebody wades",
        words=(
            r"\belectr(?:o|ic)[- ]?(?:fish\w*|worm\w*)",
            r"\bworm[- ](?:prob|fiddl|charm|grunt)\w*",
            r"\bsalt ?water (?:dimmer|rheostat|resist\w*|load)",
            r"\belectroly\w*\b.{0,25}\b(?:mains|[1-9]\d\d ?V|kV)",
            r"\b(?:HHO|hydrogen|brown['’]?s gas)\b.{0,30}\b(?:mains|socket|[1-9]\d\d ?V|kV)",
            r"\b(?:shock|stun|zap|kill|catch|electrocute)(?:s|ing)?\b.{0,30}\b(?:fish(?:es)?|eels?|"
            r"crabs?|crayfish|worms?)\b",
            r"\b(?:fish|worm|eel)[- ]?(?:stunn|shock|zapp|kill)\w*",
            r"\bworms?\b.{0,20}\b(?:out of|from) the (?:ground|soil|lawn)",
            r"\b(?:mains|live|volts?|kV|electrodes?|wires?|HV)\b.{0,25}\b(?:in|into|under|through) "
            r"(?:a |the |some |my )?(?:bath|pond|lake|river|pool|sea|salt ?water|water|brine|"
            r"soil)\b",
            r"\b(?:heat|boil)\w*\b.{0,20}\b(?:water|bath|pool)\b.{0,25}\b(?:electrodes?|bare|"
            r"plates)",
            r"\b(?:hot ?dog|sausage)s?\b.{0,30}\b(?:electrodes?|mains|cook\w*|nails?|forks?)",
        ),
        loads=(
            r"bath|water|pond|lake|river|pool|sea|brine|saltwater|aquarium|fish(?:es)?|eels?|worms?|"
            r"soil|lawn"
        ),
        but=r"plating|rust|anodi[sz]|derust|electroly(?!.{0,30}(?:mains|[1-9]\d\d ?V|kV))",
        why="Water carries the volts to whoever touches it, metres away and unseen.",
        instead="Water is heated by an element in its sheath; fish are caught by lawful means.",
        source="IEC 60335-1; IEC 60335-2-86 for what is licensed",
    ),
    Never(
        key="wood-burning",
        title="Burning patterns into wood with high voltage",
        what="2 kV through wet wood, held by hand",
        ids=("H49",),
        words=(
            r"\blichtenberg",
            r"\bfractal[- ](?:burn|wood|art|pattern|figure|electro|pyro)\w*",
            r"\bfractals?\b.{0,30}\b(?:wood|board|table|plywood)",
            r"\b(?:burn|char|scorch|etch|draw|branch)\w*\b.{0,40}\b(?:wood|plywood|timber|boards?|"
            r"planks?|oak|pine|bamboo|table ?top)\b",
            r"\bwood[- ]?burn\w*",
            r"\blightning\b.{0,30}\b(?:wood|board|plank|table|timber)",
            r"\b(?:HV|high[- ]voltage|kilovolts?|kV|microwave|oven)\b.{0,30}\b(?:wood|plywood|"
            r"timber)",
            r"\bpyrograph\w*\b.{0,20}\b(?:high[- ]voltage|HV|kV|kilovolts?|oven)\b",
        ),
        loads=r"wood|wooden|planks?|plywood|timber|oak|pine|bamboo|boards?|logs?",
        but=(
            r"hot[- ]?(?:wire|air|iron)|solder|\bpen\b|nichrome|stove|"
            r"pyrograph(?!\w* (?:with|by|at) (?:high|HV|\d* ?kV|an? oven|kilovolts))"
        ),
        why=(
            "It has killed dozens of people who knew what they did: open kilovolts at half an "
            "ampere, no device that sees it, and one slip ends it."
        ),
        instead="A hot-air pen, a torch or a soldering iron makes the pattern.",
    ),
    Never(
        key="open-hv",
        title="Arcs from bare oven parts",
        what="2 kV, half an ampere, in the open",
        ids=("H40", "H49"),
        words=(
            r"\bjacob['’]?s[- ]?ladder",
            r"\bclimbing arcs?",
            r"\b(?:microwave|oven|MOT)\b.{0,50}\b(?:arcs?|arcing|sparks?|plasma|lightning)\b",
            r"\b(?:arcs?|arcing|sparks?|plasma|lightning)\b.{0,40}\b(?:microwave|oven|MOT)\b",
            r"\bbare (?:HV|high[- ]voltage|kilovolts?)",
            r"\b(?:HV|high[- ]voltage) (?:show|display|demo|arcs?|party|trick)\w*",
            r"\bdraw(?:ing)? (?:long |big |huge )?arcs?\b(?! weld)",
            r"\bplasma speaker|\bsinging arc",
            r"\b(?:bug|fly|insect|weed|moth)[- ]?(?:zapp|kill|swatt)\w*",
            r"\b(?:kill|zap|burn|electrocute)\w*\b.{0,15}\bweeds?\b.{0,30}\b(?:electric\w*|HV|kV|"
            r"volt\w*|mains|high)",
            r"\blightning\b.{0,40}\b(?:shows?|metres?|meters?|feet|bolts?|machine|generator)\b",
            r"\b(?:metres|meters|feet) of (?:sparks?\b(?! plug)|lightning|arcs)",
            r"\bHERF\b|\bmicrowave[- ](?:gun|weapon|cannon)",
            r"\bmagnetron\b.{0,30}\b(?:outside|gun|weapon|horn|antenna|beam)",
        ),
        is_it=_exposed_oven,
        why=(
            "A bare oven winding kills at arm's length of a mistake: its core is the return, and "
            "no residual-current device sees it."
        ),
        instead="A small ignition coil on a battery shows the same arc.",
        unless=(
            "A rig of it is worked out only without an arc, and where everything above 50 V is "
            "said to be behind a cover that opens its switch."
        ),
    ),
    Never(
        key="arc-furnace",
        title="Arc lamp, arc furnace, arc in the open",
        what="carbon, 35 to 55 V across the arc, tens of amps",
        ids=("H51",),
        words=(
            r"\barc[- ](?:furnace|lamp|light|smelt\w*|melt\w*)",
            r"\bcarbon[- ]arc",
            r"\bplasma (?:cutter|torch|arc)",
            r"\b(?:melt|smelt)\w*\b.{0,30}\b(?:arc|carbon rods?)",
            r"\b(?:open|long|huge|big) arcs?\b(?! weld)",
            r"\barcs? in (?:the )?(?:air|open)",
        ),
        is_it=_open_arc,
        why=(
            "An open arc burns eyes and skin in seconds, gives off carbon monoxide and ozone, and "
            "its electrodes stand above what may be touched."
        ),
        instead="A welder made for it, behind its shade, does the same work.",
        source="IEC 60974-1",
    ),
    Never(
        key="magnetron",
        title="Magnets out of a magnetron",
        what="the rings behind its fins",
        ids=("H09",),
        words=(
            r"\bmagnets?\b.{0,30}\bmagnetron",
            r"\bmagnetron\b.{0,30}\b(?:magnets?|open|apart|break\w*|cut\w*|grind\w*|smash\w*)",
            r"\b(?:open|break|cut|grind|smash|crack)\w*\b.{0,20}\bmagnetron",
        ),
        why=(
            "Older magnetrons hold beryllium oxide in their pink or white insulators: its dust "
            "destroys lungs."
        ),
        instead="It goes whole to the recycling point; magnets are cheap.",
    ),
    Never(
        key="x-ray",
        title="High voltage on evacuated glass",
        what="5 kV and more on glass",
        ids=("H96",),
        words=(
            r"\bx[- ]?rays?\b",
            r"\bcrookes",
            r"\bradiograph\w*|\broentgen|\bfluoroscop\w*",
            r"\b(?:bulbs?|vacuum tubes?|evacuated|light ?bulbs?|valves?)\b.{0,30}\b(?:plasma|"
            r"high[- ]voltage|kilovolts?|kV|HV)\b",
            r"\b(?:plasma|high[- ]voltage|kilovolts?|kV|HV)\b.{0,30}\b(?:light ?bulbs?|bulbs?|"
            r"evacuated)\b",
            r"\bplasma[- ](?:globe|ball|bulb|lamp)",
        ),
        is_it=_evacuated,
        why="Above 5 kV an evacuated bulb gives X-rays that nobody sees or feels.",
        instead="A gas-filled tube on a sign part within its plate, covered, glows without them.",
    ),
    Never(
        key="resonant",
        title="More kilovolts by resonance or by multiplying",
        what="a capacitor tuned against the leakage reactance, or stages on stages",
        ids=("H42",),
        words=(
            r"\btesla[- ]?coil|\bspark[- ]?gap\b.{0,20}\btesla\b",
            r"\bresonan\w*\b.{0,40}\b(?:volts?|kV|kilovolts?|boost|higher|more)\b",
            r"\b(?:boost|raise|multiply|more|higher|extra)\w*\b.{0,20}\b(?:kilovolts?|kV)\b",
            r"\b(?:marx|cockcroft)",
            r"\b\d{1,3} ?kV\b.{0,20}\bmultiplier|\bmultiplier\b.{0,20}\b\d{1,3} ?kV\b",
            r"\boverdriv\w*\b.{0,30}\b(?:sign|neon|oven|transformer|kV)",
        ),
        is_it=_more_kilovolts,
        why="Tuned or stacked, it raises the volts until the insulation or a capacitor gives way.",
        instead="A part whose plate states the kilovolts that are wanted, used within it.",
    ),
    Never(
        key="back-feed",
        title="Feeding a house or a neighbour backwards",
        what="a socket fed from the wrong side",
        ids=("H83",),
        words=(
            r"\bback[- ]?feed\w*|\bfeed\w*\b.{0,20}\bback\b",
            r"\bisland(?:ing)?\b.{0,15}\b(?:house|home|flat)\b",
            r"\b(?:suicide|double[- ](?:ended|male|headed)|male[- ]to[- ]male)[- ]"
            r"(?:cord|cable|lead|plug)",
            r"\b(?:feed|power|energi[sz]e|run|supply|light)\w*\b (?:up )?(?:the |my |our |his |"
            r"her |their |a )?(?:whole )?(?:house|home|flat|neighbou?r\w*|grid|ring main|"
            r"village)\b",
            r"\b(?:feed|fed|power|current|volts?|inverter|generator|solar|output|energi[sz]\w*|"
            r"push|send)\b.{0,40}\b(?:into|to) (?:a |the |my )?(?:wall |house )?(?:socket|outlet|"
            r"consumer unit)\b",
            r"\b(?:for|to) (?:a |the |my )?neighbou?rs?\b(?!['’]s)",
        ),
        loads=(
            r"house|home|flat|neighbou?rs?|neighbou?r['’]s|grid|ring main|consumer unit|"
            r"(?:wall|house) socket|village"
        ),
        why=(
            "Fed from a socket, a whole network becomes live behind an open switch: the next hand "
            "on it is a line worker's, and no breaker of the house guards the way."
        ),
        instead="A change-over switch, put in by a licensed electrician, does it.",
        source="IEC 60364-5-55",
    ),
    Never(
        key="fence",
        title="Fences, stunners and traps",
        what="what is meant to be touched",
        words=(
            r"\b(?:electric|live|electrified|HV) (?:fence|fencing|gate|door|handle|trap|net|wire)"
            r"(?! (?:opener|motor|drive|lock|strike))",
            r"\bfence[- ](?:charg|energi|shock|unit|controller)\w*",
            r"\b(?:a |the |my )?(?:deer|rabbit|fox|cattle|horse|garden)? ?fence\b",
            r"\belectrif\w*",
            r"\bbooby[- ]?trap",
            r"\b(?:mouse|rat|vermin|pest|rodent|pigeon|snail|ant)[- ]?(?:trap|zapp|shock|kill)\w*",
            r"\b(?:door|gate|car|bike|letter ?box)\b.{0,25}\b(?:shock|live|electr)\w*",
            r"\bstunners?\b|\bstun(?:ning)? (?:pigs?|chickens?|poultry|cattle|sheep)",
        ),
        why="What is meant to be touched must limit each pulse by its construction: this does not.",
        instead="An energiser made to IEC 60335-2-76, marked and bought, does it.",
        source="IEC 60335-2-76",
    ),
    Never(
        key="bank",
        title="A bank of capacitors without bleeder, enclosure and proof",
        what="a charge that waits after power is off",
        ids=("H97",),
        words=(
            r"\bcoil[- ]?gun|\brail[- ]?gun|\bgauss (?:gun|rifle)",
            r"\b(?:can|coin|quarter)[- ]?(?:crush|shrink)\w*",
            r"\bexploding wires?|\bdis[ck] launch\w*|\bEMP\b",
            r"\b\d+(?:[.,]\d+)? ?kJ\b|\bkilojoules?\b",
            r"\b(?:capacitors?|caps?)[- ]banks?\b",
            r"\bbanks? of (?:capacitors?|caps?|electrolytics?)\b",
        ),
        is_it=_bank,
        but=r"\bweld",
        why=(
            "A charge like that waits after power is off, for years and for whoever comes next; a "
            "load that is unplugged is no bleeder."
        ),
        instead=(
            "A permanent bleeder, a locked enclosure and volts seen to fall, all three said in "
            "the plan; or a smaller store."
        ),
        source="NFPA 70E art. 360, from memory",
    ),
    Never(
        key="body",
        title="Electrodes on a body",
        what="milliamperes through skin",
        ids=("H68",),
        words=(
            r"\btaser\b",
            r"\bstun(?:ning)?[- ]?(?:gun|baton|belt|glove|stick|device|weapon)",
            r"\bcattle[- ]?prod",
            r"\bdefib(?:rillat\w*|s)?\b",
            r"\bTENS (?:unit|machine|device|pads?)|\bdiatherm\w*|\bkirlian|\bviolet wand",
            r"\be[- ]?stim\b|\belectro[- ]?(?:sex\w*|erotic\w*)",
            r"\b(?:muscle|nerve|brain|skin|electro|electric(?:al)?)[- ]?stimulat\w*",
            r"\bstimulators?\b",
            r"\belectro[- ]?(?:shock|therap|convuls|cut)\w*",
            r"\belectric chair\b",
            r"\bshock(?:ing)?[- ](?:collar|pen|chair|glove|therapy|game|machine|toy)",
            r"\b(?:prank|joke|gag|pen|game|toy|glove)\b.{0,12}\b(?:that|which|to|a) shocks?\b",
            r"\b(?:slaughter|euthani[sz]\w*)",
            rf"\b(?:shock|zap|electrocute|jolt|buzz|stun)(?:s|ing)?\b(?:\s+\w+)?\s+{BODY}\b",
            r"\belectrodes?\b.{0,30}\b(?:skin|body|muscles?|head|hands?|arms?|legs?|chest|face|"
            r"tongue|temples?|person)\b",
            r"\bthrough (?:a|the|my|his|her|your) (?:person|body|hand|finger|heart|muscle|arm)",
        ),
        loads=(
            r"persons?|people|bod(?:y|ies)|humans?|arms?|hands?|fingers?|legs?|foot|feet|chest|skin|"
            r"muscles?|heart|head|tongue|dogs?|cats?|horses?|cows?|pigs?|animals?|volunteers?|"
            r"patients?|me|myself|brother|sister|friend"
        ),
        loads_over=0.0,
        why="Milliamperes through a chest stop a heart, and nothing here limits them so surely.",
        instead="What is meant for a body is made and tested as medical equipment, and bought.",
        source="IEC 60479-1; IEC 60601-2-10",
    ),
)
"""Everything that is never planned; of several that a wish names, the first is told."""
BY_KEY = {never.key: never for never in NEVER}
FORBIDS = re.compile(
    r"\b(?:never|not(?! only)|don['’]?t|do not|no(?! problem| risk| fear)|nothing|without|avoid\w*|"
    r"against|refus\w*|instead of|rather than|forbid\w*|must not|cannot|can['’]?t|won['’]?t|"
    r"stop\w*|keep\w* away|protect\w*|prevent\w*|dangers? (?:of|from)|warn\w*|why (?:is|are)|"
    r"beware|nobody|banned|(?:killed|died|dead|hurt) (?:by|of|from))"
    r"(?:\s+(?!but\b|want\b|make\b|build\b|just\b|still\b|care\b|matter\b|mind\b|need\b|me\b|making\b|afraid\b)[\w'’-]+)"
    r"{0,4}?\s*[“\"'(]?$",
    re.I,
)
"""Words just before a thing that forbid it, warn of it or ask why it is forbidden."""
CAME_FROM = re.compile(
    r"\b(?:from|off|out of|by|marked|labell?ed|stamped|near|beside|behind|under|like|says?|"
    r"called|named|former|scrap|salvaged|taken|belonged to|(?:parts?|battery|inside|insides|"
    r"remains|photo|picture|label|plate|supply|transformer|box|case|rest) of)\b"
    r"(?:\s+(?:an?|the|my|our|some|his|her|old|dead|broken|scrap|former|disused|electric|live|HV|"
    r"high[- ]voltage|microwave|neon))*\s*[“\"'(]?$",
    re.I,
)
"""Words before a thing by which it only tells where something came from, or what it is beside."""
FORBIDDEN_AFTER = re.compile(
    r"^[^.;!?]{0,40}\b(?:is|are|was|were|must be|stays?|remains?)\s+(?:\w+\s+)?(?:never|not|"
    r"refused|forbidden|dangerous|deadly|out of the question|banned|illegal|off the table)\b",
    re.I,
)
BEFORE_A_LOAD = (
    r"(?:an?|the|my|his|her|our|your|some|one|two|wet|damp|dry|bare|human|live|salt|tap|whole|piece|"
    r"block|bucket|bowl|tub|glass|of|in|into|through|across|between|on|to)"
)
"""Words before what a load is called."""
TOOL = re.compile(
    r"\b(?:lamps?|lights?|lantern|bell|heaters?|heating|elements?|pumps?|kettle|boiler|cooler|fan|"
    r"filter|meter|valves?|stove|saw|lathe|drill|planer|tools?|dryer|warmer|mixer|radio|phone|"
    r"motor|held|circuit|box|case|base|rest|number|plant|telephone)\b|-held",
    re.I,
)
"""Words that make of it a tool."""
ASKS = re.compile(
    r"\?\s*$|^\s*(?:can|could|may|might|how|what|which|where|is it|would|should|will|i want|"
    r"i['’]?d like|i would like|want to|make|build|help me|let me|show me|tell me|please|plan)\b",
    re.I,
)
"""A line that asks for something, and is no reading."""


def wish(text: str) -> Never | None:
    """What a wish asks for that is never planned; None where it asks for nothing of it.

    >>> wish("I want fractal burning").key, wish("never burn wood with this")
    ('wood-burning', None)
    >>> wish("transformer from a fence energiser, 12 V wanted") is None
    True
    """
    return next((never for never in NEVER if any(_meant(never, text))), None)


def _meant(never: Never, text: str) -> Iterator[bool]:
    """For every place where a word of it stands, whether it is wanted there."""
    if never.but and re.search(never.but, text, re.I):
        return
    for pattern in never.words:
        for found in re.finditer(pattern, text, re.I):
            ahead, behind = text[: found.start()], text[found.end() :]
            if FORBIDS.search(ahead) or CAME_FROM.search(ahead):
                continue
            if not FORBIDDEN_AFTER.search(behind):
                yield True


def asks(line: str) -> Never | None:
    """What a typed line asks for that is never planned; None where it asks nothing of the kind."""
    return wish(line) if ASKS.search(line) else None


def refused(asked: Asked) -> Never | None:
    """What a rig or a plan is that is never planned, by its words, by what its load is called, or
    by its figures.
    """
    told = wish(asked.words) or next((never for never in NEVER if _is_load(never, asked)), None)
    return told or next((never for never in NEVER if never.is_it(asked)), None)


def _is_load(never: Never, asked: Asked) -> bool:
    """Whether a load is called what is never one: the thing itself, not a tool named after it."""
    if not never.loads or max(asked.open_rms, asked.open_dc) <= never.loads_over:
        return False
    named = re.match(rf"\s*(?:{BEFORE_A_LOAD}\s+)*(?:{never.loads})\b", asked.load_words, re.I)
    return named is not None and not TOOL.search(asked.load_words)
