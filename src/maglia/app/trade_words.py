"""The trade's words in one line each: shown on hover and in the guide. Data only."""

WORDS: dict[str, str] = {
    "strand": "from one closure end to the other",
    "drop": "hangs free from one end",
    "swag": "hangs between two places",
    "tie": "joins two runs",
    "run": "a strand, drop, swag, tie or extender: an ordered line of parts and units",
    "place": "somewhere on a run where another can be joined: a link, ring, hole, loop or mid ring",
    "fold": "the mirror line through the centre",
    "tier": "a strand in a set that lies one below the other",
    "fall": "how far below the pit of the neck the lowest point lies",
    "gap": "the difference between two falls",
    "sag": "depth of a swag below the line between its ends",
    "span": "length of a part between the two points where its neighbours bear on it",
    "pitch": "span of one chain link",
    "closed length": "the sum of spans once round, clasp done up",
    "carrier": "the run that others hang from",
    "catch": "what the clasp bites",
    "extender": "a run that lengthens",
    "tray": "the parts at hand",
    "form": "what the piece hangs on: bust, wrist, ankle, ear, flat board",
    "hem": "the line on which the lower ends of a row of drops lie",
    "off-cut": "chain left over",
    "aspect ratio": "inner diameter over wire diameter of a ring",
    "bead link": "beads on wire with a loop at each end",
    "dangle": "beads on wire with one loop; it hangs",
    "hook link": "a bead link that opens at one end",
    "cluster": "dangles crowded on one ring, or on every link of a short chain",
    "fit": "a wish that is solved into whole links and whole rings",
    "pin": "a pinned count is changed by no fit",
    "weight": "of the whole piece; of one earring",
}


def explained(text: str) -> str:
    """Every trade word in a text with its line, for a tip; empty if there is none."""
    low = text.lower()
    found = sorted((word for word in WORDS if word in low), key=low.index)
    found = [w for w in found if not any(w != o and w in o for o in found)]
    return "\n".join(f"{word}: {WORDS[word]}" for word in found)
