"""Threads as steps: cut, first end, string, second end; each thread runs from one finish to the
next, through several sections and through holes.
"""

from collections.abc import Iterator, Sequence

from maglia.core.assembly.assembly import Member
from maglia.core.cutting.day import stretch_of_mm
from maglia.core.joining.marked import place_of
from maglia.core.joining.openers import Opener
from maglia.core.joining.order import Closing, Stage
from maglia.core.joining.plan import Plan
from maglia.core.joining.step import Step
from maglia.core.joining.words import Words, a, listed
from maglia.core.parts.parts import End, Wire
from maglia.core.piece.items import StrungEnd, StrungItem
from maglia.core.sheets.count import threads_cut


class Threads:
    """The steps of every thread of a plan."""

    def __init__(self, words: Words, plan: Plan) -> None:
        self.words, self.plan, self.assembly = words, plan, words.assembly

    def cuts(self, copies: int) -> Iterator[Step]:
        """Threads to cut, with their tails."""
        for ref, length, each in threads_cut(self.assembly):
            count = each * copies
            name = self.words.part(ref)
            says = f"Cut {count} × {self.words.mm(length)} of {name}, tails in it."
            yield Step(f"cut/{ref}/{length:.1f}", "ready", "cut", says, count=count,
                       minutes=self.assembly.rules.minutes_cut * count, things=(ref,),
                       stretch=stretch_of_mm(length))  # fmt: skip

    def steps(self, batch: Sequence[Closing]) -> Iterator[Step]:
        """One batch of closings of threads: a first end with the stringing after it, what is
        threaded, a second end."""
        first = batch[0]
        member = self.assembly.members[first.opener.member]
        item = member.strung
        assert item is not None
        port, n, rules = first.opener.port, len(batch), self.assembly.rules
        at = place_of(member, port)
        others = self._others(first)
        every = [self._others(one) for one in batch]
        alike = len({len(one) for one in every}) == 1
        columns = list(zip(*every, strict=True)) if alike else [(one,) for one in others]
        takes = tuple(self.words.taken(c[0], member, several=c) for c in columns)
        members = tuple(dict.fromkeys([member.id, *(o.member for o in others)]))
        mirror = "left and right" if n > 1 and member.side in ("left", "right") else ""
        where = self.words.run(sorted({self.assembly.members[c.opener.member].run for c in batch}))
        if port not in ("a", "b"):
            says = _on_thread(port, listed([t.words for t in takes]))
            yield Step(f"thread/{at}", first.stage, "thread", says, where, (), n, mirror,
                       tuple(batch), takes, new=members[1:], in_hand=members,
                       minutes=rules.minutes_bead * n)  # fmt: skip
            return
        way = item.ends[0] if port == "a" else item.ends[1]
        verb, how, minutes = self._finish(item, way, [one.words for one in takes])
        holds = self.plan.working.glue_holds_min
        says = f"At the {'first' if port == 'a' else 'second'} end {how}."
        if self._round(member):
            verb, says, minutes = self._tied(str(port), way)
        yield Step(f"{verb}/{at}", first.stage, verb, says, where, (), n, mirror, tuple(batch),
                   takes, new=members, in_hand=members, minutes=minutes * n)  # fmt: skip
        if verb == "glue":
            yield Step(f"wait/{at}", first.stage, "wait",
                       f"Let the glue hold, {holds:g} minutes, before anything pulls on it.",
                       where, closings=(), in_hand=members, waits_min=holds)  # fmt: skip
        if port == "a" and (item.refs or item.made in ("braided", "folded")):
            yield self._stringing(member, first.stage, where, n, mirror)

    def _stringing(self, member: Member, stage: Stage, where: str, n: int, mirror: str) -> Step:
        item = member.strung
        assert item is not None
        what = self.words.along(item)
        strands = f" on {item.strands} strands" if item.strands > 1 else ""
        name = self.words.part(member.ref)
        says = f"String on {name}{strands}: {what}."
        if item.made == "braided":
            says = f"Braid {item.strands} strands of {name}: {what}."
        if item.made == "folded":
            says = f"Fold the {name} once along its length."
        at = place_of(member, "along")
        return Step(f"string/{at}", stage, "string", says, where, (), n, mirror,
                    new=(member.id,), in_hand=(member.id,),
                    minutes=self.assembly.rules.minutes_bead * len(item.refs) * n)  # fmt: skip

    def _round(self, member: Member) -> bool:
        """Whether the thread is tied to itself, so that it closes round."""
        return any(path.closed and [s.members for s in path.stations] == [(member.id,)]
                   for path in self.assembly.paths)  # fmt: skip

    def _tied(self, port: str, way: StrungEnd) -> tuple[str, str, float]:
        if port == "a":
            return "string", "Clip the first end, so that nothing slips off.", 0.0
        glue = way.finish == "glued"
        how = "Glue both ends together." if glue else "Tie both ends together, and hide the knot."
        rules = self.assembly.rules
        return ("glue" if glue else "knot"), how, rules.minutes_knot

    def _others(self, closing: Closing) -> list[Opener]:
        ends = self.plan.joints.ends
        pairs = [ends[n] for n in closing.joins]
        return [two[1] if two[0] == closing.opener else two[0] for two in pairs]

    def _finish(
        self, item: StrungItem, way: StrungEnd, taken: Sequence[str]
    ) -> tuple[str, str, float]:
        """Verb, words and minutes by which one end is made fast round what it takes."""
        rules, things = self.assembly.rules, self.assembly.things
        end = things.get(way.end or "")
        name = self.words.part(end.id) if end is not None else ""
        round_ = f" round {listed(taken)}" if taken else ""
        through = f" through {listed(taken)}" if taken else ""
        thread = things.get(item.thread)
        if way.finish == "looped" or (isinstance(thread, Wire) and thread.sort == "memory coil"):
            return "close", f"turn a loop{round_} with the heavy pliers", rules.minutes_simple_loop
        if way.finish == "goes on":
            return "thread", f"lead the thread on{through}", rules.minutes_bead
        if isinstance(end, End) and end.sort in ("cord end", "clamp"):
            if way.finish == "glued" and end.sort == "clamp":
                how = f"lay the end into {a(name)} with a drop of glue and press it shut"
                return "glue", how, rules.minutes_crimp
            if way.finish == "glued":
                return "glue", f"put glue into {a(name)} and push the end in", rules.minutes_crimp
            return "crimp", f"lay the end into {a(name)} and press it shut", rules.minutes_crimp
        if way.finish == "glued":
            return "glue", f"glue the end{round_}", rules.minutes_crimp
        if way.finish in ("crimped", "folded"):
            said = self.plan.working.crimps
            folded = way.finish == "folded" if said == "as the piece" else said == "folded"
            press = "fold it over" if folded else "press it flat"
            on = a(name) if name else "a crimp"
            times = 1.5 if folded else 1.0
            if isinstance(end, End) and end.sort in ("tip", "cone"):
                shut = f"; close its loop{round_}" if taken else ""
                how = f"draw the thread through {on}, crimp it{shut}"
                return "crimp", how, rules.minutes_crimp
            loop = f"{through.strip()} and back" if taken else "back in a small loop"
            loop = f"lead the end {loop}"
            return "crimp", f"put on {on}, {loop}; draw it up, {press}", rules.minutes_crimp * times
        if way.finish == "slip knot":
            how = "knot it round the other end, so that the knot slides"
            return "knot", how, rules.minutes_knot
        if name:
            shut = f", close its loop{round_}" if taken else ""
            how = f"put on {a(name)}, hole outward; knot, draw the knot into it{shut}"
            return "knot", how, rules.minutes_knot
        if taken:
            return "knot", f"knot it{round_}", rules.minutes_knot
        return "knot", "knot the end", rules.minutes_knot


def _on_thread(port: object, taken: str) -> str:
    """What is put on a thread as it is strung, and where."""
    text = str(port)
    if text.startswith("rides"):
        return f"Slide on {taken}: it rides there, and goes on before the second end."
    if text.startswith("gap "):
        return f"After bead {text[4:]} put on {taken}."
    if text.startswith("along "):
        return f"At {text[6:]} mm put on {taken}."
    return f"At bead {text} put on {taken}."
