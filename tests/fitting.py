"""What the tests of fits share: parts of round sizes, small pieces, and a piece solved."""

import math

from msgspec.structs import replace
from scipy.optimize import brentq

from maglia.core.fit.solve import solve
from maglia.core.parts.parts import Bead, Chain, Charm
from maglia.core.piece.piece import DropRow, Form, Place, Run, Wearer
from maglia.demo import demo_path
from maglia.files.piece_json import read_piece
from workshop import PARTS, chain, piece, rings, unit

LONG_SHORT = Chain(id="ls", name="Long short", pitches_mm=(7.0, 3.0, 3.0), wire_mm=0.8)
AMBER = Bead(id="amber", name="Amber", length_mm=6.0, width_mm=6.0, hole_mm=1.0)
DISC = Bead(id="disc", name="Disc", length_mm=2.0, width_mm=5.0, hole_mm=1.0)
FRAME = Charm(id="leaf", name="Leaf", height_mm=8.0, width_mm=4.0, loop_mm=2.0, mass_g=0.5)
MORE = (*PARTS, LONG_SHORT, AMBER, DISC, FRAME)


def demo(name):
    return read_piece(demo_path(name))


def fitted(of, *fits):
    """The one piece, and the one fit or all of them, solved."""
    solved = solve(replace(of, fits=fits))
    return (solved.piece, solved.fitted[0]) if len(fits) == 1 else (solved.piece, solved.fitted)


def row(count=7, every=4, links=8, **more):
    items = (rings(part="small"), chain(links), unit("dangle"))
    return DropRow(name="Row", run="Strand", every=every, count=count, items=items, **more)


def tiers(*links, rows=()):
    runs = [Run(name="T1", centre=chain(links[0]), items=(rings(),))]
    for k, count in enumerate(links[1:], 2):
        end = Place(run="T1", item=1, at=1)
        runs.append(Run(name=f"T{k}", centre=chain(count), items=(rings(),), end=end))
    return replace(piece(*runs, rows=rows, wearer=Wearer(neck_mm=350)), form=Form(kind="bust"))


def catenary_length_mm(chord_mm, sag_mm):
    """Length of a chain between two points of equal height, `chord_mm` apart, that hangs
    `sag_mm` below them. With half chord w: sag = a (cosh(w/a) − 1), length = 2 a sinh(w/a)."""
    half = chord_mm / 2
    u = brentq(lambda v: (math.cosh(v) - 1) / v - sag_mm / half, 1e-9, 60.0)
    return 2 * half / u * math.sinh(u)


def catenary_sag_mm(chord_mm, length_mm):
    """Sag of a chain of `length_mm` between two points of equal height."""
    u = brentq(lambda v: math.sinh(v) / v - length_mm / chord_mm, 1e-9, 60.0)
    return chord_mm / 2 / u * (math.cosh(u) - 1)
