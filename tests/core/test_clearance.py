"""Air around a drop, to the rim of what it hangs in."""

import numpy as np
import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.fit.clearance import clearance_mm
from maglia.core.fit.look import Look
from maglia.core.hang.hung import hang
from maglia.core.parts.parts import Connector, Hole
from maglia.core.piece.items import ConnectorItem, PartItem
from maglia.core.piece.piece import Closure, Form, Place, Run
from workshop import PARTS, chain, piece


def test_a_drop_keeps_clear_of_the_frame_it_hangs_in():
    """A frame 40 wide and 60 high, its wire 0.8 about an ellipse; in it a charm 8 wide from 27 − 9
    down to 27 − 29 mm over its middle."""
    frame = Connector(id="hoop", name="Hoop", outline="frame", width_mm=40.0, height_mm=60.0,
                      thickness_mm=1.2, mass_g=4.0,
                      holes=(Hole(name="top", x_mm=0, y_mm=30, diameter_mm=2.0),
                             Hole(name="in", x_mm=0, y_mm=28, diameter_mm=2.0)))  # fmt: skip
    host = Run(name="Host", lies="fold",
               items=(ConnectorItem(part="hoop", hole_in="top", hole_out="in"),))  # fmt: skip
    inner = Run(name="Inner", kind="drop", lies="fold", items=(chain(3), PartItem(part="charm")),
                start=Place(run="Host", item=1, port="in"))  # fmt: skip
    made = piece(host, inner, closure=Closure(), parts=(*PARTS, frame))
    assembly = expand(replace(made, form=Form(kind="board"), sort="pendant"))
    got = clearance_mm(Look(assembly, hang(assembly)), "Inner")
    angle = np.linspace(0, 2 * np.pi, 4001)
    rim = np.c_[20 * np.sin(angle), 30 * np.cos(angle)]
    down = np.c_[np.zeros(801), np.linspace(18, -2, 801)]
    air = np.linalg.norm(rim[:, None] - down[None], axis=2).min() - 4.0 - 0.8
    assert got == pytest.approx(air, abs=0.1)
