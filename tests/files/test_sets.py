"""Sets: a necklace and its earrings in one file, counted together; what is left of a day."""

import json

import pytest
from click.testing import CliRunner

from maglia.cli import main
from maglia.core.assembly.expand import expand
from maglia.core.cutting.day import Making, cuttings, wants_of
from maglia.core.cutting.lengths import Length
from maglia.core.joining.left import Enough, bags_left, enough_for, lengths_left
from maglia.core.joining.needs import needs_of
from maglia.core.values.record import DomainError
from maglia.demo import demo_path
from maglia.files.piece_json import read_piece
from maglia.files.set_json import Entry, Set, is_set, read_set, write_set
from workshop import chain, piece, rings, strand

NECKLACE, EARRINGS = (read_piece(demo_path(n)) for n in ("spotlight-swags", "trapdoor-earrings"))
MADE = Set("Opening night", (Entry(NECKLACE, 1), Entry(EARRINGS, 2)))


def test_a_set_is_carried_whole_and_counted_together(tmp_path):
    path = tmp_path / "night.json"
    write_set(MADE, path)
    assert read_set(path) == MADE
    assert is_set(path)
    assert not is_set(demo_path("ushers-y"))
    done = CliRunner().invoke(main, ["count", str(path), "--copies", "3", "--json"])
    data = json.loads(done.stdout)
    assert data["pieces"] == [{"piece": "Spotlight swags", "copies": 3},
                              {"piece": "Trapdoor earrings", "copies": 6}]  # fmt: skip
    cable = next(c for c in data["chains"] if c["chain"] == "cable-2")
    by_links = {c["links"]: c["count"] for c in cable["cuts"]}
    # by hand: four swags of 18 in each necklace; in each earring one of 14, 8, 2, two of 6 and 4
    assert by_links == {18: 12, 14: 12, 8: 12, 6: 24, 4: 24, 2: 12}


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"format": "maglia-piece"}, 'it lacks "format": "maglia-set"'),
        ({"version": 2}, "a set of version 2 is not known here"),
        ({"strange": 1}, "unknown field `strange`"),
        ({"pieces": []}, "`pieces` must hold 1 to 200 pieces"),
        ({"name": ""}, "a set needs its `name`"),
        ({"pieces": [{"copies": 0, "piece": {}}]}, "piece 1: `copies` must be a whole number"),
        ({"pieces": [{"copies": True, "piece": {}}]}, "piece 1: `copies` must be a whole number"),
        ({"pieces": [{"piece": {"format": "maglia-piece", "version": 4, "name": 5}}]}, "piece 1: "),
        ({"pieces": [{"piece": {}, "times": 2}]}, "piece 1: write {copies, piece}"),
        ({"pieces": 7}, "`pieces` must hold"),
    ],
)
def test_a_set_that_is_wrong_is_said_and_nothing_is_read(change, said, tmp_path):
    path = tmp_path / "night.json"
    write_set(MADE, path)
    path.write_text(json.dumps({**json.loads(path.read_text()), **change}))
    with pytest.raises(DomainError) as fault:
        read_set(path)
    assert said in str(fault.value)
    assert "night.json" in str(fault.value)
    (tmp_path / "half.json").write_text("{")
    with pytest.raises(DomainError, match="not a whole JSON file"):
        read_set(tmp_path / "half.json")


def test_what_is_left_of_a_day_is_enough_for_something_else():
    made = piece(strand(chain(9), rings(), chain(5)))
    day = [Making(expand(made))]
    lots = {"chain": [Length("spool", 60), Length("scrap", 12)]}
    cuts = dict(cuttings(day, lots, {}, seconds=5.0))
    bags = {"ring": 20, "catch": 3, "clasp": 4}
    needs = needs_of(day, bags)
    left = bags_left(bags, needs)
    rings_used = next(n.count for n in needs if n.thing.id == "ring")
    assert left == {"ring": 20 - rings_used, "catch": 2, "clasp": 3}
    # by hand: 9, 5 and 5 links and three cuts are 22: off the spool 38 are over
    lengths = lengths_left(lots, cuts)
    assert sorted(one.links for one in lengths["chain"]) == [12, 38]
    small = expand(piece(strand(chain(9), rings())))
    large = expand(piece(strand(chain(50), rings())))
    assert list(enough_for([small, large], left, lengths)) == [Enough("Test", 2)]  # two catches
    assert list(enough_for([small], {**left, "clasp": 0}, lengths)) == []
    assert list(enough_for([small], left, {"chain": []})) == []
    assert set(wants_of(day)[0]) == {"chain"}
