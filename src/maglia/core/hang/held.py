"""What keeps its own shape when it is worn or laid: a coil, a bangle, a piece flat on the mat. Its
main strand stands where it stands; what hangs from it hangs.

A coil is a helix of its own diameter, bead beside bead, its middle at the foot and its two ends
over each other on top; a bangle is a rigid round that rests on the arm by its top. On the mat
gravity decides nothing: everything lies as it is laid.
"""

import numpy as np

from maglia.core.hang.bodies import Floats
from maglia.core.hang.build import as_network, path_lengths
from maglia.core.hang.forms import FormBody
from maglia.core.hang.layout import BETWEEN_TURNS_MM, Lines, board_layout, body_layout, ring_layout
from maglia.core.hang.network import Network
from maglia.core.hang.skeleton import Skeleton
from maglia.core.parts.parts import Ring, Wire
from maglia.core.piece.piece import Form
from maglia.core.sheets.as_worn import coil_across_mm
from maglia.core.sheets.lengths import member_width_mm, thickness_mm


def coiled(net: Skeleton, coil: Wire, form: FormBody) -> Network:
    """The network of a coil on a wrist or ankle, its strand fixed. One whose beads have no room
    round the arm springs open on it."""
    assembly, main = net.assembly, net.assembly.main
    assert main is not None
    points, at = path_lengths(net, assembly.paths.index(main))
    half = thickness_mm(assembly) / 2
    radius = max(coil_across_mm(coil) / 2, form.top_z + half)
    inner = radius - half
    angle = (at - at[-1] / 2) / radius
    widths = [member_width_mm(assembly, assembly.members[i])
              for s in main.stations for i in s.members]  # fmt: skip
    pitch = max(widths, default=2.0) + BETWEEN_TURNS_MM
    middle = min(form.top_z - inner, 0.0)
    line = np.column_stack(
        [radius * np.sin(angle), pitch * angle / (2 * np.pi), middle - radius * np.cos(angle)]
    )
    known: Lines = {(main.run, str(main.side)): line}
    start, _ = body_layout(net, form, known)
    fixed = {point: tuple(place) for point, place in zip(points, line, strict=True)
             if point not in net.attached}  # fmt: skip
    start[points] = line
    return as_network(net, start, fixed, form.body)


def round_the_wrist(net: Skeleton, bangle: Ring, form: FormBody) -> Network:
    """The network of a bangle that rests on the arm."""
    main = net.assembly.main
    assert main is not None
    top = net.bounds[net.assembly.paths.index(main)][0]
    place = (0.0, 0.0, form.top_z + (bangle.wire_mm or 0.0) / 2)
    known: Lines = {(main.run, str(main.side)): np.array([place, place])}
    start, _ = body_layout(net, form, known)
    start = start + (np.array(place) - start[top])
    return as_network(net, start, {top: place})


def on_the_mat(net: Skeleton, form: Form) -> Network:
    """Everything as it is laid out flat, with nothing to pull on it: in a line, or closed to a
    round with what hangs from it laid outward."""
    main = net.assembly.main
    if form.laid == "closed" and main is not None and main.closed:
        start: Floats = ring_layout(net)
    else:
        long = (main.length_mm or 0.0) if main is not None else 0.0
        laid = Form(kind="board", pins_mm=max(long * (1 - 1e-6), 1.0))
        start, _ = board_layout(net, laid)
    everything = {point: tuple(place) for point, place in enumerate(start)}
    return as_network(net, start, everything)
