"""The kinds of findings there are: their names, how bad they may be, where they lead, and when.

``docs/findings.md`` is made from this table (``make schema``).
"""

from typing import Literal, NamedTuple

from molvik.wording import counted

Severity = Literal["stop", "look", "note"]
SEVERITIES: tuple[Severity, ...] = ("stop", "look", "note")
"""stop: will hurt, burn or not work. look: judge it. note: good to know."""

SEVERITY_WORDS: dict[Severity, str] = {"stop": "fix", "look": "check", "note": "note"}
"""Severities as they are said: it will hurt, burn or not work; somebody has to judge it; it is good
to know. Files and JSON keep the names of old."""


def count_of(severity: Severity, count: int) -> str:
    """Say how many findings there are of a severity: 3 to fix, 5 to check, 2 notes."""
    if severity == "note":
        return counted(count, "note")
    return f"{count} to {SEVERITY_WORDS[severity]}"


Stage = Literal["survey", "pinouts", "crossover", "circuits", "sizes", "routing", "proving"]


class Kind(NamedTuple):
    """A kind of finding. severities: which it may have. when: when it is found, in words."""

    severities: tuple[Severity, ...]
    stage: Stage
    when: str

    @property
    def how_bad(self) -> str:
        """Its severities in words."""
        return " or ".join(SEVERITY_WORDS[severity] for severity in self.severities)


KINDS: dict[str, Kind] = {
    "two-wires-one-cavity": Kind(("stop",), "circuits", "two wires end in one cavity of a housing"),
    "no-such-cavity": Kind(
        ("stop",), "circuits", "a wire goes to a cavity the housing does not have"
    ),
    "closed-cavity": Kind(("look",), "pinouts", "a wire is in a cavity marked empty or plugged"),
    "named-not-wired": Kind(
        ("stop", "look"),
        "pinouts",
        "the pinout names a function and no wire goes there, nor to its mating half, nor will "
        "one by a repinning; to fix for an earth",
    ),
    "listed-no-wires": Kind(
        ("note",), "pinouts", "a connector has a pinout and no wire at all: perhaps the donor's"
    ),
    "terminal-size": Kind(
        ("stop",), "circuits", "the wire is outside what the terminal size takes"
    ),
    "colour-differs": Kind(("note",), "pinouts", "the wire's colour is not the pinout's"),
    "halves-do-not-mate": Kind(
        ("stop",), "pinouts", "two halves have the same terminals or other cavities"
    ),
    "loose-end": Kind(("stop",), "circuits", "a wire has a loose end"),
    "ends-not-drawn": Kind(
        ("note",),
        "circuits",
        "three or more wires of a plug, and none of them goes anywhere yet: one note for all",
    ),
    "no-such-place": Kind(
        ("stop",), "circuits", "a wire goes to a part or a terminal that is not in the job"
    ),
    "ends-in-one-place": Kind(("stop",), "circuits", "a wire starts and ends in one place"),
    "side-by-side": Kind(("look",), "circuits", "two wires run between the same two ends"),
    "earth-meets-supply": Kind(("stop",), "circuits", "a supply and an earth are on one circuit"),
    "runs-hot": Kind(("look",), "sizes", "the wire comes within 10 K of its insulation's class"),
    "undersized": Kind(
        ("stop",),
        "sizes",
        "the wire gets hotter than its insulation's class where it runs, in its bundle and "
        "for as long as it is loaded, or while cranking",
    ),
    "too-thin-to-handle": Kind(("look",), "sizes", "thinner than 22 AWG or 0.35 mm²"),
    "voltage-drop": Kind(
        ("look",),
        "sizes",
        "the wire loses more than the rest of its path leaves, and more than its share of "
        "what the path may drop",
    ),
    "terminal-overloaded": Kind(("stop",), "sizes", "more current than the terminal size carries"),
    "short-not-cleared": Kind(
        ("stop", "look"),
        "sizes",
        "a dead short at the far end takes more than 5 s to blow the slowest fuse permitted (wires "
        "hot); to fix where the wire is spoilt before",
    ),
    "current-differs": Kind(
        ("look",), "sizes", "it carries at least 25 % more than the typed current in a steady state"
    ),
    "no-battery": Kind(
        ("note",), "sizes", "without a battery no wire can be judged against the fuse before it"
    ),
    "cannot-be-judged": Kind(
        ("note",),
        "sizes",
        "a wire the battery feeds, of unknown size, current or length; counted beside the findings",
    ),
    "no-fuse": Kind(
        ("stop",),
        "sizes",
        "no fuse between the battery and the wire, with the metres of it; a wire to the first "
        "fuse, and one used for the starter, are left out. A fuse that is bypassed is none",
    ),
    "far-fuse": Kind(
        ("look",),
        "sizes",
        "more than 0.5 m of cable before the first fuse, all wires to it counted",
    ),
    "fuse-too-large": Kind(
        ("stop",),
        "sizes",
        "at its slowest, the fuse lets through more than the wire stands; names the thicker "
        "wire it steps down from",
    ),
    "fuse-too-small": Kind(
        ("look",),
        "sizes",
        "it carries more than 80 % of its rating, less above 60 °C, in any lasting state or "
        "by what was typed",
    ),
    "fuse-inrush": Kind(
        ("look",),
        "sizes",
        "what a load draws at first, on top of the others, may blow it at its quickest",
    ),
    "fuse-cranking": Kind(
        ("stop", "look"),
        "sizes",
        "cranking may blow it within 15 s at its quickest; to fix when it must",
    ),
    "fuse-order": Kind(
        ("look", "note"),
        "sizes",
        "the fuse nearer the battery may blow first; to check when it is not larger",
    ),
    "no-such-fuse": Kind(("note",), "circuits", "a rating that is not usually made"),
    "cannot-solve": Kind(
        ("stop",), "circuits", "a figure of a part cannot be, and the job cannot be solved"
    ),
    "dead-in-crank": Kind(
        ("stop",),
        "circuits",
        "the starter, or a device the engine needs, is dead or weak while cranking; one for "
        "each cause",
    ),
    "runs-on": Kind(
        ("stop",),
        "circuits",
        "all the engine needs stays alive with the key off, fed back by the alternator",
    ),
    "stays-alive": Kind(
        ("look",), "circuits", "some of what the engine needs stays alive with the key off"
    ),
    "isolator-no-stop": Kind(
        ("stop",), "circuits", "all the engine needs stays alive with the battery isolator off"
    ),
    "no-run-down": Kind(
        ("look",),
        "circuits",
        "the isolator cuts off an alternator that charges, and no resistor takes its last energy",
    ),
    "no-charge": Kind(
        ("stop",),
        "circuits",
        "the engine runs and an alternator does not start charging: nothing, or a light-emitting"
        " diode alone, excites it",
    ),
    "lamp-wrong": Kind(
        ("look",),
        "circuits",
        "a warning lamp that the engine moves is not lit in run, or not dark while it runs",
    ),
    "gauge-lost": Kind(
        ("note",), "circuits", "nothing is on the wire of a gauge's signal; it may be accepted"
    ),
    "start-contact": Kind(
        ("note",),
        "circuits",
        "the start contact of the key carries the whole current of the starter's solenoid",
    ),
    "fuse-blows": Kind(
        ("stop",), "circuits", "with everything on, a fuse carries more than 1.35 times its rating"
    ),
    "chatter": Kind(("stop",), "circuits", "a relay cannot settle"),
    "two-rests": Kind(
        ("look",), "circuits", "relays lock one another: chance decides which of them pulls in"
    ),
    "over-voltage": Kind(
        ("stop", "look"),
        "circuits",
        "a load gets 20 % more than the nominal voltage, or more than 16 V for each 12 while it "
        "charges, or a sensor for 5 V more than 6; to fix from half as much again on",
    ),
    "batteries-in-series": Kind(
        ("note",), "circuits", "batteries are in series, and what each has was not entered"
    ),
    "made-for-minus": Kind(
        ("look",), "circuits", "plus is at metal, and what is made for minus there is in the job"
    ),
    "drain": Kind(
        ("look",),
        "circuits",
        "more than the job's limit (50 mA) flows with the key and every switch off",
    ),
    "feeds-joined": Kind(("look",), "circuits", "two fuses feed one circuit"),
    "returns-through": Kind(
        ("stop",),
        "circuits",
        "a load carries current backwards: another returns through it, because its own earth is "
        "missing",
    ),
    "network-terminators": Kind(
        ("stop", "look"),
        "circuits",
        "a bus has not two terminators; to check where it has three",
    ),
    "network-terminator-odd": Kind(
        ("look",), "circuits", "a terminator of a bus is more than a tenth off 120 Ω"
    ),
    "network-terminator-inside": Kind(
        ("look",), "circuits", "a bus goes on beyond a terminator, farther than a stub may"
    ),
    "network-too-long": Kind(
        ("look",), "circuits", "a bus is longer than its bit rate allows (ISO 11898-2, SAE J1939)"
    ),
    "network-stub": Kind(
        ("look",),
        "circuits",
        "a module hangs on a longer stub than the bit rate allows (ISO 11898-2, SAE J1939)",
    ),
    "network-ring": Kind(("look",), "circuits", "the wires of a bus close a ring"),
    "network-untwisted": Kind(
        ("look",), "circuits", "more than 0.2 m of a bus are not twisted (common practice)"
    ),
    "network-crossed": Kind(("stop",), "circuits", "a module has the two wires of a bus crossed"),
    "network-one-wire": Kind(
        ("stop",), "circuits", "a module has one wire of a bus only, or both are shorted"
    ),
    "network-alone": Kind(("note",), "circuits", "a module is alone on its bus"),
    "network-rates": Kind(
        ("stop",), "circuits", "modules of one bus are said to talk at different bit rates"
    ),
    "network-nodes": Kind(
        ("look",), "circuits", "more modules hang on a bus than SAE J1939 allows at its bit rate"
    ),
    "charge-short": Kind(
        ("look", "note"),
        "circuits",
        "an alternator gives less than is drawn in a part of the day; a note until it is typed how "
        "the vehicle is used",
    ),
    "sensor-shared": Kind(
        ("look",), "circuits", "a gauge hangs on the wire of a computer's sensor and feeds it too"
    ),
    "sensor-out-of-range": Kind(
        ("look", "note"),
        "circuits",
        "a computer takes a sensor for broken at 90 °C: its ohms are not what it expects",
    ),
    "gauge-off": Kind(
        ("look",),
        "circuits",
        "a gauge is off by more than a twentieth of its scale with the sender or pulses it gets",
    ),
    "screen-earths": Kind(
        ("stop", "look"),
        "circuits",
        "the screen of a cable (a wire used as `screen`) is not earthed at one end; to fix at both "
        "ends, to check at neither",
    ),
    "diode-reversed": Kind(
        ("stop", "look"),
        "circuits",
        "a diode across a coil conducts, or a diode never conducts",
    ),
    "no-suppression": Kind(
        ("look",),
        "circuits",
        "a controller switches a relay whose coil has neither diode nor resistor",
    ),
    "lead-thinner": Kind(
        ("look",), "crossover", "a wire is thinner than what the new cavity's pinout says"
    ),
    "lead-does-not-fit": Kind(
        ("stop",), "crossover", "a wire is outside what the terminal of its new cavity takes"
    ),
    "order-breaks": Kind(
        ("stop",), "crossover", "in the user's order of repinning, a step meets a full cavity"
    ),
    "wires-astray": Kind(
        ("stop",), "crossover", "since repinning began, a wire of the set was moved by other means"
    ),
    "match-to-decide": Kind(
        ("look",), "crossover", "repinning has a wire whose cavity must be confirmed"
    ),
    "lead-left-undone": Kind(
        ("stop", "look"),
        "crossover",
        "repinning has wires without a cavity that are not decided yet; to fix with feeds, earths, "
        "injectors or coils among them",
    ),
    "needs-converter": Kind(
        ("look",),
        "crossover",
        "two signals have one name but not one kind: pulses, sender, polarity, wires",
    ),
    "fault-found": Kind(
        ("stop", "look", "note"),
        "survey",
        "a fault of the loom as found that is not to be left; what burnt with no fuse before "
        "it is dangerous however it was graded; to fix at grade 4, to check at 3",
    ),
    "odd-tree": Kind(
        ("note",), "survey", "the loom as found has a loop, loose pieces or unknown lengths"
    ),
    "loom-not-worth-it": Kind(
        ("look",), "survey", "half the wires of the loom or more are to be replaced"
    ),
    "no-way": Kind(
        ("stop",), "routing", "both ends of a wire are in looms to build, and no route joins them"
    ),
    "sits-nowhere": Kind(
        ("note",), "routing", "parts that wires go to are at no end of a loom: one note for all"
    ),
    "odd-loom": Kind(
        ("note",),
        "routing",
        "a loom to build has a loop, loose pieces, two stretches between the same nodes"
        ", or unknown lengths",
    ),
    "length-differs": Kind(
        ("stop", "look"),
        "routing",
        "a wire is shorter than its route and ends by 5 % or more; to fix when it is shorter than "
        "the route alone",
    ),
    "longer-than-its-way": Kind(
        ("note",), "routing", "wires are longer than their routes and ends by 5 % or more: one note"
    ),
    "too-hot-here": Kind(
        ("stop",),
        "routing",
        "beside a hot surface a stretch gets hotter than a wire's insulation or its covering bears",
    ),
    "splice-moves": Kind(("stop",), "routing", "a stretch beside a splice moves"),
    "splice-near": Kind(
        ("look",), "routing", "a splice lies less than 40 mm from a breakout, a plug or a splice"
    ),
    "does-not-pass": Kind(
        ("stop",), "routing", "a bundle with its covering is thicker than the hole it goes through"
    ),
    "not-held": Kind(
        ("note",),
        "routing",
        "a stretch is held less often than every 450 mm; where nothing is "
        "known of what holds it and what it passes, nothing is said",
    ),
    "covering-fits-nothing": Kind(
        ("look",), "routing", "no size of a covering goes over what lies in a stretch"
    ),
    "sleeve-cannot-go-on": Kind(
        ("stop",),
        "routing",
        "a closed sleeve, a boot or a grommet has on each side an end whose plug is fitted already",
    ),
    "plug-does-not-pass": Kind(
        ("stop", "look"),
        "routing",
        "threaded from either side, a plug with the wires there is wider than the hole; to fix "
        "where both sides carry theirs already",
    ),
    "bent-too-tight": Kind(
        ("look",),
        "routing",
        "a bend is tighter than 5 times what the stretch is thick, 10 times where it is stiff "
        "or moves",
    ),
    "moves-without-slack": Kind(("look",), "routing", "a stretch that moves has no slack"),
    "stiff-where-it-moves": Kind(
        ("look",), "routing", "a stretch that moves has a covering that makes it stiff"
    ),
    "plug-not-held": Kind(
        ("note",), "routing", "nothing holds a branch of 150 mm or more before its plug: one note"
    ),
    "cores-part": Kind(
        ("look",), "routing", "the cores of a twisted cable go more than 50 mm without each other"
    ),
    "look-alikes": Kind(
        ("stop", "look", "note"),
        "routing",
        "plugs that are alike, as far as is known, reach each other's mates; to fix where a swap "
        "blows a fuse or gives a sensor more than it bears, a note where they are on the same "
        "circuits",
    ),
    "part-here": Kind(
        ("note",),
        "routing",
        "two or more plugs of injectors, coils or sensors of a kind hang near one breakout",
    ),
    "splice-of-one": Kind(("note",), "circuits", "fewer than two wires end in a splice"),
    "splice-elsewhere": Kind(
        ("note",), "routing", "another place of a splice saves 10 % of its copper and 0.2 m of wire"
    ),
    "failed-continuity": Kind(("stop",), "proving", "the last reading was open or above the limit"),
    "touching-nets": Kind(
        ("stop",), "proving", "the short test found circuits joined that should not be"
    ),
    "below-leads": Kind(("look",), "proving", "the last reading was below the leads alone"),
    "moved-since-measured": Kind(("note",), "proving", "the wire was moved after its last reading"),
    "rule-failed": Kind(
        ("look",),
        "circuits",
        "a rule came to no answer, for a fault in Molvik: what it would say is not known",
    ),
}
