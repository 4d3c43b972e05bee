"""Strips as they are drawn: rings that go through each other cross on the picture, one over the
other by turns; rows alike are drawn once.
"""

import pytest
from PySide6.QtGui import QColor, QPainter, QPixmap

from maglia.app.painting import stamps, weaves
from maglia.app.painting.members import draw_member
from maglia.core.assembly.expand import expand
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.text import make_sheet
from maglia.core.piece.items import WeaveItem
from maglia.core.weaves.kinds import woven
from maglia.demo import demo_path
from maglia.files.piece_json import read_piece

DEMOS = ("armoury-cuff", "scene-dock-band", "quick-change-bracelet")


def strip(name):
    piece = read_piece(demo_path(name))
    built = expand(piece)
    item = next(i for run in piece.runs for i in run.items if isinstance(i, WeaveItem))
    return piece, built, item


@pytest.mark.parametrize("name", DEMOS)
def test_what_goes_through_each_other_crosses_and_lies_over_by_turns(qtbot, name):
    _, built, item = strip(name)
    looks = weaves._looks_of(item, built.things)
    row = weaves._row(looks, 3, 1.0)
    assert row.through
    for a, b in row.through:
        one, other = (row.own[k] if k >= 0 else row.before[-1 - k] for k in (a, b))
        crossings = weaves._crossings(one, other)
        assert len(crossings) >= 2
        assert len(crossings) % 2 == 0
        assert len(crossings[::2]) == len(crossings) / 2  # as often over as under


@pytest.mark.parametrize("name", DEMOS)
def test_rows_alike_are_drawn_once_and_all_are_seen(qtbot, name):
    _, built, item = strip(name)
    picture = QPixmap(900, 120)
    seen = []
    for _ in range(2):
        picture.fill(QColor("#b9c0b3"))
        before = len(stamps._known)
        painter = QPainter(picture)
        painter.translate(20, 60)
        painter.scale(4, 4)
        for member in built.members:
            if member.woven is not None:
                x = member.woven.row * 10.0
                draw_member(painter, built, member, ((x, 0.0), (x + 4.0, 0.0)))
        painter.end()
        seen.append(len(stamps._known) - before)
    assert seen[0] <= 6  # first, inner and last rows, and those that lie by turns
    assert seen[1] == 0
    image = picture.toImage()
    ground = QColor("#b9c0b3").rgb()
    for row in range(min(item.rows, 20)):
        columns = range(20 + 40 * row, 20 + 40 * row + 30)
        assert any(image.pixel(x, y) != ground for x in columns for y in range(120))


@pytest.mark.parametrize("name", DEMOS)
def test_the_edge_of_a_strip_has_the_row_in_hand_and_what_it_takes(qtbot, name):
    _, built, item = strip(name)
    steps = make_sheet(built, joining_plan(built)).steps
    step = next(s for s in steps if s.id.startswith("weave/") and s.count > 2)
    rings = [m - built.members[step.closings[0].opener.member].woven.weave for m in step.in_hand]
    edge = weaves.edge_of(item, built.things, rings)
    assert set(edge.boxes) == set(rings)
    roles = woven(item).roles
    widest = max(edge.boxes.values(), key=lambda box: box.width())
    assert widest.width() > 0
    assert {roles[r] for r in rings} <= {role.role for role in item.roles}
