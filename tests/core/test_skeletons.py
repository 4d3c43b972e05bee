"""Starting points: each is alive at once, for every wearer, and answers its three questions."""

import pytest
from msgspec.structs import replace

from maglia.core.fit.solve import solve
from maglia.core.parts.parts import Clasp
from maglia.core.piece.piece import Wearer
from maglia.core.report import evaluate
from maglia.core.values.record import DomainError
from maglia.core.workshop.skeleton_kit import Asked
from maglia.core.workshop.skeletons import SKELETONS, started
from maglia.demo import demo_tray
from maglia.files.piece_json import piece_from, piece_text

TRAY = demo_tray()
BY_ID = {s.id: s for s in SKELETONS}


@pytest.mark.parametrize("skeleton", SKELETONS, ids=lambda s: s.id)
def test_every_skeleton_hangs_with_nothing_to_mend(skeleton):
    for wearer in TRAY.wearers[::2]:
        piece = solve(started(skeleton, TRAY, Asked(wearer))).piece
        found = evaluate(piece)
        assert found.hung.state == "converged"
        assert found.checks == ()
        assert all(fit.met for fit in found.fits)
        assert piece_from(piece_text(piece)) == piece


@pytest.mark.parametrize(
    ("which", "count", "counted"),
    [("single", 9, ("amber-dangle", 9)), ("tiers", 4, ("lobster-10", 1)),
     ("triangle", 5, ("bib-link", 15)), ("linked", 7, ("bib-link", 7)),
     ("swags", 3, ("lobster-10", 1)), ("cluster", 20, ("oval-6", 26))],
)  # fmt: skip
def test_how_many_is_answered(which, count, counted):
    piece = started(BY_ID[which], TRAY, Asked(TRAY.wearers[0], None, count))
    found = {c.id: c.count for c in evaluate(piece).counts}
    ref, number = counted
    if which in ("triangle", "linked"):
        links = next(u.id for u in piece.units if u.kind == "bead link")
        assert found[links] == number
    elif which == "tiers":
        assert sum(run.kind == "strand" for run in piece.runs) == count
    elif which == "swags":
        assert sum(run.kind == "swag" for run in piece.runs) == count
    elif which == "cluster":
        assert next(u for u in piece.units if u.kind == "cluster").links == count
    else:
        assert found[ref] == number


def test_how_long_is_answered_and_what_lacks_is_named():
    asked = Asked(TRAY.wearers[0], 455.0)
    piece = solve(started(BY_ID["single"], TRAY, asked)).piece
    assert evaluate(piece).closed_length_mm == pytest.approx(455, abs=3)
    bare = replace(TRAY, parts=tuple(p for p in TRAY.parts if not isinstance(p, Clasp)))
    with pytest.raises(DomainError, match="holds no lobster clasp"):
        started(BY_ID["single"], bare, asked)
    with pytest.raises(DomainError, match="take 1 to 60"):
        started(BY_ID["tiers"], TRAY, Asked(Wearer(), None, 99))
