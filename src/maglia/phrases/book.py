"""The phrase book: every form with an example, what it does, and the piece it is said to. Data: the
guide shows it, the tests run it.

Examples stand on a small bench of their own, in the words that made it.
"""

from typing import NamedTuple

from maglia.core.workshop.tray import Tray
from maglia.phrases.script import Written, with_kept, write

BENCH = """\
new wearer prompter neck 372 wrist 160 hand 190 head 560 ease 15
new wearer usher neck 340 wrist 150
new chains rolo 3 inside 2.2 wire 0.7 brass, cable 4 inside 2.6 wire 0.8, all 12 g/m
new rings 4 x 0.8, 5 x 0.9, 6 x 1, 9 x 1.2, 12 x 1.2, all inner
new beads amber 6, rose 8, seed 2, teal 9 x 7 drop, daisy 3 x 4, all hole 1 glass
new cap bell 3 x 7 hole 1
new wire 0.6
new head pin 40 x 0.6 head 2
new thread silk 0.5
new cable fine 0.4
new cord strap 3 leather
new ribbon velvet 9 x 1
new crimp 4 loop 2 takes 1
new tip 5 loop 2 takes 1.2
new clamp 8 loop 2 takes 3 wide 9
new lobster 10 span 10 eye 2 gape 1.8 jaw 1.2
new charm key 24 x 10 loop 3 x 1
new charm leaf 15 x 9 loop 2.5 x 0.8
new connector fan 30 x 20 x 1, holes left right 24 apart of 1.8, foot 0:-8 of 1.8
new connector arch 30 x 24 x 1.2 frame, holes left -12:6, right 12:6, foot 0:-10 of 1.8
new ear hook 15 loop 2
new link rose on wire, loops 2.5, mid ring 6
new link amber on wire, loops 2.5
new dangles teal, amber on head pin, loop 2
"""
"""What lies on the bench of every example."""

CHAIN = "begin necklace for prompter; 101 rolo, 2 ring 5"
RINGS = "begin necklace for prompter; ring 6, 4 x (rose link, ring 6), 41 rolo, ring 5"
STRUNG = "begin necklace for prompter; string 61 amber on fine, ends crimp; ring 5"
FREE = "begin bracelet free for prompter; ring 6, 4 x (rose link, ring 6)"


class Form(NamedTuple):
    """An example, what it does, and what was said before it."""

    phrase: str
    does: str
    after: str = CHAIN


class Chapter(NamedTuple):
    """Forms that belong together."""

    title: str
    forms: tuple[Form, ...]


BOOK: tuple[Chapter, ...] = (
    Chapter("New on the bench", (
        Form("new ring 4.2 x 0.8 inner gunmetal stock 200", "a ring: inside by wire"),
        Form("new chain belcher 3.1 inside 2.3 wire 0.8, 16 g/m", "chain: pitch, inside, wire"),
        Form("new chain fox 32 links 104 mm inside 1.9 wire 0.6", "chain by a swatch"),
        Form("new beads opal 6, jet 4 x 6, all hole 1 glass", "several at once"),
        Form("new connector bar 30 x 6 x 1, holes left right 24 apart of 1.6, foot 0:-2 of 1.6",
             "holes by their place from the middle"),
        Form("new link bell + 2 amber + bell on wire, loops 2.5 wrapped 2", "a bead link"),
        Form("new dangle rose on head pin, loop 2, called plum", "a dangle with a name"),
        Form("new tassel silk skirt 25 wraps 36 neck 5 x 7, folded over ring 4", "a tassel"),
        Form("new cluster ring 9 carrying 2 x (ring 4, teal dangle)", "a cluster"),
        Form("new wearer dresser neck 360 wrist 158 ease 15", "a wearer, who is dressed"),
    )),
    Chapter("Beginning", (
        Form("begin necklace for usher", "mirrored on the fold", ""),
        Form("begin bracelet free for prompter, 3 turns, wire from the spool, called Rope",
             "written from left to right, wound three times", ""),
        Form("begin earrings for usher", "a pair, counted as two", ""),
    )),
    Chapter("Along the run", (
        Form("ring 4, 37 rolo, 2 x (rose link, ring 6)", "at the cursor, outward"),
        Form("40 cm rolo", "the nearest whole links",
             "begin necklace for prompter"),
        Form("12 figure from link 2", "with which link of its pattern it begins",
             "begin necklace for prompter; new chain ? pitches 7 3 3 called Figure"),
        Form("2 ring 4 abreast", "side by side"),
        Form("fan left to right", "hole in, hole out"),
        Form("amber link after link 12", "put in there"),
        Form("ring 6 carrying leaf and teal dangle", "hung from the ring"),
        Form("string 9 x (2 amber, daisy), 2 amber on silk doubled, ends tip knotted",
             "beads on a thread", "begin necklace for prompter"),
        Form("string 3 amber, ring 9 over rose, amber and back on fine, ends crimp",
             "rides over; mirrored back", "begin necklace for prompter"),
        Form("400 mm velvet, ends clamp", "ribbon by the length",
             "begin necklace for prompter"),
        Form("45 cm strap braided, slip knots", "cord",
             "begin necklace for prompter"),
    )),
    Chapter("Weaves", (
        Form("weave four in one 20 rows: ring 4, end ring 5", "a strip of rings"),
        Form("weave four in one 20 rows 5 across: ring 4", "wider"),
        Form("weave two in two 40 places: ring 4", "pairs through pairs"),
        Form("weave doubled strip 16 rows: large ring 6, small ring 4, end ring 6",
             "two large closed, a small and a large through four"),
        Form("weave shaggy loops 30 rings 3 tufts: base ring 4, tuft ring 6", "loops on a chain"),
        Form("weave byzantine 12 periods: ring 4", "folded back"),
        Form("weave rubber and metal for wrist: rubber 8, ring 6",
             "as many as let the hand pass, closed on itself",
             "begin bracelet free for prompter; new rubber ring 8 x 2 inner stretch 2 called "
             "Rubber 8"),
        Form("weave stretch triangles 16 triangles: large ring 9, rubber 8, small ring 5",
             "a band that closes on itself",
             "begin bracelet free for prompter; new rubber ring 8 x 2 inner stretch 2 called "
             "Rubber 8"),
        Form("swatch 10 rows 62 mm", "measured, edge to like edge",
             "begin bracelet free for prompter; weave box 40 rows: ring 4"),
    )),
    Chapter("Further strands", (
        Form("strand 47 cm rolo at 2nd ring", "both ends there"),
        Form("strand 71 amber on silk, ends tip, at 1st ring", "strung"),
        Form("3 strands 47 / 52 / 57 cm cable", "from the last ring"),
        Form("rows 3 2 rose link, 1 amber link, joined by ring 6, hung by ring 5, at links 0 10 "
             "with ring 5", "tied rows"),
        Form("triangle 4 rose link, joined by ring 6, hung by ring 5", "4, 3, 2, 1",
             "begin necklace for prompter"),
    )),
    Chapter("What hangs", (
        Form("drop ring 4, 9 rolo, teal at link 6", "from the top down, left and right"),
        Form("drop straight leaf at link 3", "without a ring, though nothing opens there"),
        Form("drop teal on 9 rolo with ring 4 at fold", "the same, said from the foot"),
        Form("drop arch by left and right with ring 4 at fold", "held by two holes"),
        Form("drop ring 4, key at link 12 on the right", "on one side"),
        Form("3 drops 5 / 9 / 12 cable, teal / amber / leaf at 1st ring", "by turns"),
        Form("drop leaf with ring 4 on each rose link", "one on every one", RINGS),
        Form("drops every 4 links: ring 4, teal", "a row"),
        Form("9 drops spread evenly: ring 4, teal", "a row over the whole chain"),
        Form("drops ring 4, teal dangle / amber dangle at links 1 to 7", "a row by turns"),
        Form("swag 24 rolo from 1st ring to 2nd ring", "on both sides", RINGS),
        Form("swags 24 rolo between links 4 10 16", "each to the next"),
        Form("swags 24 rolo from 1st ring to 4th ring", "from ring to ring", RINGS),
        Form("swag 9 rolo from link 4 on the left to link 4 on the right", "across the fold"),
        Form("tie 9 rolo from link 6 to mid of 1st rose link", "between two runs", RINGS),
        Form("slide ring 12, leaf from bead 9 to bead 12", "rides between stops", STRUNG),
        Form("extender ring 4, 12 rolo, teal dangle", "from the catch",
             f"{CHAIN}; close lobster into ring 9"),
    )),
    Chapter("Places", (
        Form("at 2nd ring", "goes there", RINGS),
        Form("drop leaf with ring 4 at bead 9", "a bead, counted outward", STRUNG),
        Form("drop leaf with ring 4 at gap 9", "between two beads", STRUNG),
        Form("drop leaf with ring 4 at 12 cm", "so far from the fold", STRUNG),
        Form("drop ring 4, leaf at mid of 2nd rose link", "a mid ring", RINGS),
        Form("drop ring 4, leaf at far loop of last rose link", "a loop", RINGS),
        Form("drop ring 4, leaf at foot of fan", "a hole",
             "begin necklace for prompter; fan, ring 4, 61 rolo, ring 5"),
        Form("drop ring 4, leaf at link 3 past 1st ring", "counted from there", RINGS),
        Form("drop leaf at right end", "the outermost", FREE),
    )),
    Chapter("Closing and wearing", (
        Form("close ring 4, lobster into ring 9, 2 ring 4", "right end, clasp, catch, left end"),
        Form("close lobster into end", "bites what is there"),
        Form("close ring 4, lobster into rose link", "bites a link by its wider loop"),
        Form("close on itself with ring 4", "an endless one"),
        Form("close over the head with ring 4", "and checked that it passes"),
        Form("leave open", "not closed", f"{CHAIN}; close lobster into ring 9"),
        Form("way Long: hooked at last ring of Extender", "another way to wear it",
             f"{CHAIN}; close lobster into ring 9; extender 12 rolo, ring 6"),
        Form("way Short: without Extender", "something left off",
             f"{CHAIN}; close lobster into ring 9; extender 12 rolo, ring 6"),
    )),
    Chapter("Wishes", (
        Form("length 450", "closed, in whole links"),
        Form("length neck + 20", "by the wearer's girth"),
        Form("tiers gaps 40", "strands below each other",
             f"{CHAIN}; strand 47 cm rolo; strand 52 cm rolo"),
        Form("keep length", "stays as it is solved", f"{CHAIN}; length 450"),
        Form("forget length", "no longer wished", f"{CHAIN}; length 450"),
    )),
    Chapter("Changing", (
        Form("replace ring 5 by ring 6", "everywhere; lengths of chain are kept"),
        Form("replace ring 5 by ring 6 keeping counts", "of chain the numbers of links are kept"),
        Form("replace rose link by new link amber + rose on wire, loops 2.5, mid ring 6",
             "a unit made otherwise", RINGS),
        Form("rename Strand to Collar", "a run, a part, or piece"),
        Form("take out last ring", "with what hangs from it", RINGS),
        Form("replace drop 2 of Drops by ring 4, leaf", "one drop of a row",
             f"{CHAIN}; drops every 4 links: ring 4, teal"),
        Form("take out drop 3 of Drops on the left", "one drop of a row",
             f"{CHAIN}; drops every 4 links: ring 4, teal"),
        Form("make rolo 45 cm", "a count or a length"),
        Form("split at link 12", "the chain in two"),
        Form("free Drop", "its two sides apart", f"{CHAIN}; drop ring 4, teal at link 6"),
        Form("turn fan round", "the other way round",
             "begin bracelet free for prompter; ring 6, fan, ring 6"),
        Form("wind 24 turns of wire, 12 seed", "round the connector at the cursor",
             "begin necklace for prompter; fan"),
        Form("for usher", "another wearer; several are shown side by side"),
        Form("hang on bust, pins 140, vee neckline", "what it hangs on, or lies on: mat, closed"),
        Form("note: three of the rings are chipped", "a line of its note"),
        Form("accept bar-tilts at “Strand, connector 1”: meant so", "a finding that is kept"),
    )),
)  # fmt: skip
"""Every form of a wish stands in `maglia.core.fit.wishes.FORMS`."""


def bench_tray() -> Tray:
    """What lies on the bench of every example."""
    return with_kept(Tray(), write(f"{BENCH}begin necklace", Tray()).keeps)


def said_to(form: Form, tray: Tray) -> Written:
    """What an example makes of the piece it is said to."""
    if form.after:
        return write(form.phrase, tray, write(form.after, tray).piece)
    begun = "" if form.phrase.startswith("begin") else "begin necklace; "
    return write(begun + form.phrase, tray)
