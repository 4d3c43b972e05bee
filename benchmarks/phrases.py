"""How long a phrase takes to be understood on a tray of 2,000 parts: python benchmarks/phrases.py

Prints milliseconds, and each as a share of the 10 ms in which a key should be answered.
"""

import sys
import time
from statistics import median

from msgspec.structs import replace

from maglia.core.edits.spots import CENTRE, Spot
from maglia.core.workshop.tray import Tray
from maglia.phrases.book import BENCH, CHAIN
from maglia.phrases.here import Here
from maglia.phrases.line import understood
from maglia.phrases.script import with_kept, write

PARTS, ALLOWED_MS = 2_000, 10.0
PHRASES = (
    "21 rolo", "am", "drop teal at link 6", "drop ring 4, 9 cable, leaf at 2nd ring",
    "string 9 x (2 amber, daisy), 2 amber on silk doubled, ends tip knotted",
    "new link bell + 2 amber + bell on wire, loops 2.5 wrapped 2",
    "rows 3 2 rose link, 1 amber link, joined by ring 6, hung by ring 5, at links 0 10",
    "close ring 4, lobster into ring 9, 2 ring 4", "drops every 4 links: nobody",
)  # fmt: skip


def large_tray() -> Tray:
    tray = with_kept(Tray(), write(f"{BENCH}begin necklace", Tray()).keeps)
    more = [
        replace(part, id=f"{part.id}-{k}", name=f"Number {k} {part.name}")
        for k in range(PARTS // len(tray.parts) + 1)
        for part in tray.parts
    ]
    return replace(tray, parts=(*tray.parts, *more)[:PARTS])


def main() -> int:
    small = with_kept(Tray(), write(f"{BENCH}begin necklace", Tray()).keeps)
    tray, piece = large_tray(), write(CHAIN, small).piece
    worst = 0.0
    for phrase in PHRASES:
        took = []
        for _ in range(21):
            began = time.perf_counter()
            understood(phrase, Here(piece, tray, Spot("Strand", (CENTRE,))))
            took.append(1000 * (time.perf_counter() - began))
        ms = median(took[1:])
        worst = max(worst, ms / ALLOWED_MS)
        print(f"{ms:7.2f} ms  {ms / ALLOWED_MS:5.2f}  {phrase}")
    print(f"worst {worst:.2f} of {ALLOWED_MS:g} ms, {len(tray.parts)} parts")
    return int(worst > 1)


if __name__ == "__main__":
    sys.exit(main())
