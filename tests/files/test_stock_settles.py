"""Days and builds against the stock, in thousands of random turns: nothing appears, nothing
vanishes, and what is over holds nothing any more. Amounts are added up apart from the program.
"""

from random import Random

import pytest
from msgspec.structs import replace

from maglia.core.joining.ways import USUAL
from maglia.core.parts.parts import Chain, Ring, Wire
from maglia.core.values.record import DomainError
from maglia.core.workshop.lying import Deed, amount_of_mm
from maglia.demo import demo_path
from maglia.files.piece_json import read_piece
from maglia.files.workshop import build_stock, builds, contents, day_stock, stock
from maglia.files.workshop.store import open_workshop
from maglia.phrases.stock_phrases import read_stock

PIECE = read_piece(demo_path("spotlight-swags"))
PIECES = tuple(replace(PIECE, id=name, name="Rose, teal × 2 | long") for name in ("a", "b"))
RING, SPLIT = Ring(id="ring", name="Ring"), Ring(id="split", name="Split")
ROLO = Chain(id="rolo", name="Rolo", pitches_mm=(3.0,))
FIGURE = Chain(id="figure", name="Figure", pitches_mm=(7.0, 3.0, 3.0), openable=True)
WIRE = Wire(id="wire", name="Wire", wire_mm=0.6)
PARTS, LONG = (RING, SPLIT, ROLO, FIGURE, WIRE), (ROLO, FIGURE, WIRE)
STEPS = 60


class Turns:
    """A workshop in which anything happens, and what was bought, counted in and out, by hand."""

    def __init__(self, path, seed):
        self.path, self.random = path, Random(seed)
        self.workshop, self.at = self.opened(), 0
        contents.change(self.workshop, [contents.added(part) for part in PARTS])
        self.parts = {part.id: part for part in PARTS}

    def opened(self):
        made = open_workshop(self.path)
        made.database.execute("PRAGMA synchronous = OFF")
        return made

    def now(self):
        self.at += 1
        return f"2031-01-01T{self.at // 3600:02}:{self.at // 60 % 60:02}:{self.at % 60:02}"

    def pick(self, found):
        found = list(found)
        return self.random.choice(found) if found else None

    def running(self):
        return [one.id for one in builds.listed(self.workshop) if not one.ended]

    # what may happen

    def buy(self):
        part = self.pick(self.parts.values())
        said = self.pick(["300", "40"] if part in (RING, SPLIT) else
                         ["1 m", "430 mm"] if isinstance(part, Wire) else
                         ["1 m", "430 mm", "120 links", "21 links"])  # fmt: skip
        for deed in read_stock(said, part):
            stock.do(self.workshop, part, deed, self.now())

    def count(self):
        part = self.pick([RING, self.parts["rolo"]])
        lot = self.pick(stock.lots_of(self.workshop, part.id)) if part is not RING else None
        if part is RING or lot is not None:
            name = lot.name if lot else ""
            deed = Deed("counted", self.random.randint(0, 60), name)
            stock.do(self.workshop, part, deed, self.now())

    def lay_out(self):
        day = self.pick([*day_stock.open_days(self.workshop), f"day {self.at}"])
        there = stock.lying(self.workshop, day)
        parts = {ref: self.random.randint(0, own.bag) for ref, own in there.items() if own.bag}
        lots = [(ref, lot.name, lot.amount) for ref, own in there.items() for lot in own.lots
                if self.random.random() < 0.5]  # fmt: skip
        pieces = [(piece, self.random.randint(1, 2)) for piece in PIECES]
        day_stock.lay_out(self.workshop, day, pieces, parts, lots, self.now())

    def change_day(self):
        if day := self.pick(day_stock.open_days(self.workshop)):
            pieces = [
                (piece, self.random.randint(1, 3)) for piece in PIECES[: self.random.randint(1, 2)]
            ]
            day_stock.keep_day(self.workshop, day, pieces, self.now())

    def give_up_day(self):
        if day := self.pick(day_stock.open_days(self.workshop)):
            day_stock.give_up(self.workshop, day, self.now())

    def begin(self):
        piece = self.pick(PIECES)
        day = day_stock.day_for(self.workshop, piece.id)
        number = builds.begin(self.workshop, piece, USUAL, self.now(), day)
        build_stock.reserve(self.workshop, number, {"ring": 7, "split": 2}, self.now())

    def change_build(self):
        if build := self.pick(self.running()):
            needs = {"ring": self.random.randint(0, 12), "split": self.random.randint(0, 3)}
            build_stock.reserve(self.workshop, build, needs, self.now())

    def cut(self):
        if build := self.pick(self.running()):
            part = self.pick(LONG)
            amount = 70_000 if part is WIRE else self.random.randint(3, 40)
            place = f"cut/{part.id}#{self.random.randint(1, 4)}"
            build_stock.cut(self.workshop, build, self.parts[part.id], amount, place, self.now())

    def back(self):
        if build := self.pick(self.running()):
            do = self.pick([build_stock.put_back, build_stock.lay_aside])
            place = f"cut/{self.pick(LONG).id}#{self.random.randint(1, 4)}"
            do(self.workshop, build, place, self.now())

    def spoil(self):
        if build := self.pick(self.running()):
            build_stock.spoil(self.workshop, build, "ring", self.now())

    def end(self):
        build = self.pick(self.running())
        if build is None:
            return
        day = builds.read(self.workshop, build).day
        with self.workshop.changing():
            if self.random.random() < 0.5:
                build_stock.use(self.workshop, build, self.now())
            else:
                build_stock.release(self.workshop, build, self.now(), ["rolo", "figure"])
            builds.end(self.workshop, build, self.now())
            day_stock.settle(self.workshop, day, self.now())

    def reverse(self):
        row = self.workshop.database.execute(
            "SELECT id FROM event WHERE sort <> 'reversal' ORDER BY random() LIMIT 1"
        ).fetchone()
        if row:
            stock.reverse(self.workshop, row[0], self.now())

    def measure_anew(self):
        pitch = self.pick([3.0, 3.1, 3.2])
        before, after = self.parts["rolo"], replace(ROLO, pitches_mm=(pitch,))
        changed = contents.Change("part", "rolo", before, after)
        contents.change(self.workshop, [changed], self.now())
        self.parts["rolo"] = after
        for (account, ref), n in stock.balances(self.workshop).items():
            if ref == "rolo" and account.measured_um and pitch != before.pitches_mm[0]:
                whole = amount_of_mm(after, account.measured_um / 1000)
                assert n == whole - account.links_off, account  # as long as it was measured

    def killed(self):
        """A change is cut off amid its steps; the file is opened again."""
        try:
            with self.workshop.changing():
                self.buy()
                self.begin()
                raise KeyboardInterrupt
        except KeyboardInterrupt:
            pass
        self.workshop.close()
        self.workshop = self.opened()

    DEEDS = (buy, buy, count, lay_out, lay_out, change_day, give_up_day, begin, begin,
             change_build, cut, cut, cut, back, spoil, end, end, reverse, measure_anew,
             killed)  # fmt: skip

    def turn(self):
        before = self.dump()
        try:
            self.pick(self.DEEDS)(self)
        except DomainError:
            assert self.dump() == before  # refused whole

    def dump(self):
        query = self.workshop.database.execute
        tables = ("event", "movement", "balance", "build", "day", "day_piece")
        return [query(f"SELECT * FROM {table} ORDER BY 1").fetchall() for table in tables]


@pytest.mark.parametrize("seed", range(50))
def test_whatever_happens_the_stock_settles(tmp_path, seed):
    own = Turns(tmp_path / "w.sqlite", seed)
    for _ in range(STEPS):
        own.turn()
        held = stock.balances(own.workshop)
        assert stock.faults(own.workshop) == []
        for part in PARTS:  # what came in from outside lies somewhere
            assert sum(n for (_, ref), n in held.items() if ref == part.id) == 0
        assert all(n > 0 for (account, _), n in held.items() if account.sort != "outside")
        open_days, running = day_stock.open_days(own.workshop), own.running()
        for account, _ in held:  # a plan is of a day or a build that goes on
            if account.sort == "plan":
                assert account.day in open_days or account.build in running
    for day in day_stock.open_days(own.workshop):
        day_stock.give_up(own.workshop, day, own.now())
    for build in own.running():
        build_stock.release(own.workshop, build, own.now())
        builds.end(own.workshop, build, own.now())
    assert not [account for account, _ in stock.balances(own.workshop) if account.sort == "plan"]
    own.workshop.close()


def test_what_was_measured_stays_as_long_as_it_was(tmp_path):
    """3 m of a nominal pitch of 3 are 1000 links, by one of 3.2 937; what was counted stays."""
    own = Turns(tmp_path / "w.sqlite", 0)
    for deed in (*read_stock("3 m called spool", ROLO), *read_stock("100 links called end", ROLO)):
        stock.do(own.workshop, ROLO, deed, own.now())
    build = builds.begin(own.workshop, PIECES[0], USUAL, own.now())
    after = replace(ROLO, pitches_mm=(3.2,))

    def lots():
        return {lot.name: lot.amount for lot in stock.lying(own.workshop)["rolo"].lots}

    def anew(before, now):
        contents.change(own.workshop, [contents.Change("part", "rolo", before, now)], own.now())

    anew(ROLO, after)
    assert lots() == {"spool": 937, "end": 100}
    bought = stock.events_of(own.workshop, "rolo")[-1]
    assert (bought.measured_um, bought.amount) == (3_000_000, 1000)
    build_stock.cut(own.workshop, build, after, 200, "cut/rolo#1", own.now())
    assert lots() == {"end": 100, "off-cut": 736}
    anew(after, ROLO)  # the same metal: 1000 links, less the 200 and the one that was lost
    assert lots() == {"end": 100, "off-cut": 799}
    build_stock.put_back(own.workshop, build, "cut/rolo#1", own.now())
    assert lots() == {"end": 100, "spool": 1000}
    stock.do(own.workshop, ROLO, Deed("counted", 990, "spool"), own.now())
    anew(ROLO, after)
    assert lots() == {"end": 100, "spool": 990}  # counted since: links are the truth
    own.workshop.close()


def test_a_cut_that_cannot_be_taken_back_leaves_no_empty_reversal(tmp_path):
    own = Turns(tmp_path / "w.sqlite", 0)
    stock.do(own.workshop, ROLO, Deed("bought", 200), own.now())
    build = builds.begin(own.workshop, PIECES[0], USUAL, own.now())
    build_stock.cut(own.workshop, build, ROLO, 50, "one", own.now())
    build_stock.cut(own.workshop, build, ROLO, 50, "two", own.now())
    before = own.dump()
    with own.workshop.changing():
        assert not build_stock.put_back(own.workshop, build, "one", own.now())
    assert own.dump() == before
    assert build_stock.put_back(own.workshop, build, "two", own.now())
    assert build_stock.put_back(own.workshop, build, "one", own.now())
    assert stock.lots_of(own.workshop, "rolo")[stock.Account("lot", "rolo", "lot 1")] == 200
    own.workshop.close()
