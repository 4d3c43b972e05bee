"""The plan as steps: equal closings together, mirrored sides together, with looks and waits.

A step's id comes from the place of its first closing, so that it is the same step after an edit
that does not touch it.
"""

from collections.abc import Iterator, Sequence
from itertools import groupby

from msgspec.structs import replace

from maglia.core.assembly.assembly import Assembly, link_from_fold
from maglia.core.assembly.places import CLOSURE
from maglia.core.cutting.day import Stretch
from maglia.core.joining import making, threads
from maglia.core.joining.cautions import cautions_of
from maglia.core.joining.marked import place_of
from maglia.core.joining.openers import Opener, is_catch
from maglia.core.joining.order import Closing
from maglia.core.joining.plan import Plan
from maglia.core.joining.step import Step
from maglia.core.joining.strips import LOOK_EVERY
from maglia.core.joining.weaving import Weaving, woven_of
from maglia.core.joining.words import Taken, Words, a, by_side, listed, numbers
from maglia.core.parts.parts import Chain, Connector, Ring
from maglia.core.parts.units import BeadLink, Cluster, Dangle, HookLink, Loop, Tassel, far_loop
from maglia.core.sheets.cutting import cut_list
from maglia.core.sheets.lengths import closed_length_mm, run_lengths
from maglia.core.values.measures import LengthUnit


def steps_of(
    assembly: Assembly, plan: Plan, unit: LengthUnit = "mm", copies: int = 1
) -> tuple[Step, ...]:
    """Every step of a plan, in order. Lengths are said in `unit`. Of an earring pair with 2
    `copies` both are readied, and the minutes are those of both."""
    made = _Making(assembly, plan, unit, copies)
    found = [*made.ready(), *made.units(), *made.closings()]
    return made.finished(found)


def for_some(
    assembly: Assembly, plan: Plan, step: Step, closings: tuple[Closing, ...], unit: LengthUnit
) -> Step:
    """A step in the words that hold for some of its closings: what these take, and where."""
    if not closings or closings == step.closings:
        return step
    if assembly.members[closings[0].opener.member].strung is not None:
        return step
    if step.id.startswith("weave/"):
        how = Weaving(assembly, Words(assembly, plan.opened, unit)).row(closings)
        return replace(step, says=" ".join(how))
    own = _Making(assembly, plan, unit, 1)._closing(closings)
    return replace(step, says=own.says, takes=own.takes, new=own.new, in_hand=own.in_hand,
                   up=own.up)  # fmt: skip


class _Making:
    def __init__(self, assembly: Assembly, plan: Plan, unit: LengthUnit, copies: int) -> None:
        self.assembly, self.plan, self.working = assembly, plan, plan.working
        self.copies = copies
        self.words = Words(assembly, plan.opened, unit)
        self.threads = threads.Threads(self.words, plan)
        self._met: dict[Opener, list[Opener]] = {}

    # what is readied

    def ready(self) -> Iterator[Step]:
        words, rules = self.words, self.assembly.rules
        for cut in cut_list(self.assembly, self.copies):
            length = f", {words.mm(cut.length_mm)}" if cut.length_mm is not None else ""
            each = "" if cut.count == 1 else " each"
            what = f"{cut.words} of {words.part(cut.chain)}"
            says = f"Cut {cut.count} × {what}{length}{each}."
            begun = f"/{cut.first_phase}" if cut.first_phase else ""
            yield Step(f"cut/{cut.chain}/{cut.links}{begun}", "ready", "cut", says, count=cut.count,
                       minutes=rules.minutes_cut * cut.count, things=(cut.chain,),
                       stretch=Stretch(cut.links, cut.first_phase))  # fmt: skip
        yield from self.threads.cuts(self.copies)
        opened: dict[str, int] = {}
        for member in self.plan.opened:
            one = self.assembly.members[member]
            if one.kind == "ring":
                opened[one.ref] = opened.get(one.ref, 0) + 1
        for thing in self.assembly.piece.parts:
            if thing.id in opened:
                n, name = opened[thing.id] * self.copies, words.part(thing.id)
                says = f"Open {n} × {name}: twist them sideways, never apart."
                if n == 1:
                    says = f"Open {a(name)}: twist it sideways, never apart."
                if isinstance(thing, Ring) and thing.closure == "split":
                    says = f"Lay out {n} × {name}: spread as they go on."
                yield Step(f"open/{thing.id}", "ready", "open", says, count=n, things=(thing.id,))

    # units

    def units(self) -> Iterator[Step]:
        kinds: dict[tuple[str, frozenset[str]], list[int]] = {}
        active: dict[int, set[str]] = {}
        for closing in self.plan.closings:
            if closing.sort == "once":
                active.setdefault(closing.opener.member, set()).add(str(closing.opener.port))
        for member in self.assembly.members:
            if member.strung is None and isinstance(
                self.assembly.thing(member), BeadLink | Dangle | Tassel
            ):
                key = (member.ref, frozenset(active.get(member.id, ())))
                kinds.setdefault(key, []).append(member.id)
        for (ref, left_open), members in sorted(kinds.items(), key=lambda kind: kind[1][0]):
            yield self._unit(ref, left_open, members)

    def _unit(self, ref: str, left_open: frozenset[str], members: Sequence[int]) -> Step:
        unit = self.assembly.things[ref]
        assert isinstance(unit, BeadLink | Dangle | Tassel)
        name, n = self.words.part(ref), len(members) * self.copies
        both = isinstance(unit, BeadLink) and len(left_open) == 2
        rest = ", both loops left open" if both else ", one loop left open" if left_open else ""
        rest = ", its loop left open" if left_open and isinstance(unit, Dangle) else rest
        says = f"Make {n} × {name}{rest}." if n > 1 else f"Make the {name}{rest}."
        each = making.minutes(self.assembly, unit, self.working, left_open)
        return Step(
            id="/".join(["make", ref, *sorted(left_open)]), stage="unit", verb="make", says=says,
            how=making.recipe(self.words, unit, self.working, left_open), count=n,
            new=(members[0],), in_hand=(members[0],), minutes=each * n, things=(ref,),
        )  # fmt: skip

    # closings

    def closings(self) -> Iterator[Step]:
        weaving = Weaving(self.assembly, self.words)
        batches = [tuple(group) for _, group in
                   groupby(self.plan.closings, lambda c: (c.stage, c.batch))]  # fmt: skip
        for k, batch in enumerate(batches):
            member = self.assembly.members[batch[0].opener.member]
            if member.strung is not None:
                yield from self.threads.steps(batch)
            elif self._within_weave(batch):
                yield self._woven(weaving, batch)
                goes_on = k + 1 < len(batches) and self._within_weave((*batch, *batches[k + 1]))
                if goes_on and self._rows(batch) == LOOK_EVERY:
                    yield weaving.look(batch, self.assembly.rules.minutes_look)
            else:
                yield self._closing(batch)

    def _within_weave(self, batch: Sequence[Closing]) -> bool:
        """Whether these are rows of one weave, and nothing else is joined there."""
        own = woven_of(self.assembly, batch[0])
        return own is not None and all(
            (other := self.assembly.members[o.member].woven) is not None
            and other.weave == own.weave
            for closing in batch for o in self._others(closing)
        )  # fmt: skip

    def _rows(self, batch: Sequence[Closing]) -> int:
        return len({own.row for c in batch if (own := woven_of(self.assembly, c))})

    def _woven(self, weaving: Weaving, batch: tuple[Closing, ...]) -> Step:
        minutes = self.assembly.rules.minutes_weave_ring * len(batch)
        return weaving.step(batch, self._takes(batch[:1]), minutes)

    def _closing(self, batch: tuple[Closing, ...]) -> Step:
        first = batch[0]
        member = self.assembly.members[first.opener.member]
        takes = self._takes(batch)
        verb, says = self._says(first, takes)
        members = tuple(dict.fromkeys([member.id, *(one.member for one in takes)]))
        new = tuple(dict.fromkeys(c.opener.member for c in batch[:1]))
        return Step(
            id=f"{verb}/{place_of(member, first.opener.port)}", stage=first.stage, verb=verb,
            says=says, where=self._where(batch), count=len(batch),
            mirror=self._sides(batch), closings=batch, takes=takes, new=new, in_hand=members,
            up=self._up(takes), minutes=self._minutes(first) * len(batch),
        )  # fmt: skip

    def _takes(self, batch: Sequence[Closing]) -> tuple[Taken, ...]:
        """What the first one takes, in words that hold for all of them."""
        by = self.assembly.members[batch[0].opener.member]
        others = [self._others(closing) for closing in batch]
        several = [list(column) for column in zip(*others, strict=True)] if len(
            {len(one) for one in others}) == 1 else [[one] for one in others[0]]  # fmt: skip
        merged: dict[object, list[Taken]] = {}
        for column in several:
            taken = self.words.taken(column[0], by, several=column)
            merged.setdefault((taken.words, taken.lies), []).append(taken)
        found = []
        for alike in merged.values():
            one, *rest = alike
            if rest:
                one = one._replace(words=_times(len(alike), one.words))
            found += [one, *(more._replace(words="") for more in rest)]
        return _beside(by_side(found))

    def _others(self, closing: Closing) -> list[Opener]:
        """What a closing takes."""
        found = self._met.get(closing.opener)
        if found is None:
            found = self._met[closing.opener] = self._sorted_others(closing)
        return found

    def _sorted_others(self, closing: Closing) -> list[Opener]:
        if len(closing.joins) == 1:
            one, other = self.plan.joints.ends[closing.joins[0]]
            return [other if one == closing.opener else one]
        ends = self.plan.joints.ends
        own = closing.opener
        pairs = [ends[n] for n in closing.joins]
        others = [two[1] if two[0] == own else two[0] for two in pairs]
        by = self.assembly.members[own.member]

        def key(o: Opener) -> tuple[str, str]:
            member = self.assembly.members[o.member]
            return self.words.lies(member, by), member.ref

        return sorted(others, key=key)

    def _says(self, closing: Closing, takes: Sequence[Taken]) -> tuple[str, str]:
        member = self.assembly.members[closing.opener.member]
        thing, name = self.assembly.thing(member), self.words.part(member.ref)
        taken = listed([one.words for one in takes if one.words])
        own = self.words.words(closing.opener, member, (closing.opener,))
        let = f"Let it take {taken}. Close it."
        if closing.sort == "threaded":
            return "thread", f"Thread {own} on {taken}."
        if isinstance(thing, Ring):
            if thing.closure == "split":
                return "close", f"Spread a {name}. Let it take {taken}; turn it on to the end."
            if is_catch(self.assembly, member):
                return "close", f"Open the catch, {name}. {let}"
            return "close", f"Take an open {name}. {let}"
        if isinstance(thing, HookLink) and closing.opener.port == "b":
            return "close", f"Spring the hook of the {name} round {taken}."
        if isinstance(thing, BeadLink | Dangle):
            loop = _loop_at(thing, str(closing.opener.port))
            which = self.words.loop(closing.opener)
            if closing.sort == "once":
                shut = making.closed_round(loop, taken)
                return "wrap", f"Take the {name} by its open {which}. {shut}"
            return "close", f"Open the {which} of the {name} sideways. {let}"
        if isinstance(thing, Chain):
            return "close", f"Open {own}. {let}"
        return "close", f"Open the loop of the {name}. {let}"

    def _minutes(self, closing: Closing) -> float:
        member = self.assembly.members[closing.opener.member]
        thing, rules = self.assembly.thing(member), self.assembly.rules
        if isinstance(thing, BeadLink | Dangle) and closing.sort == "once":
            loop = _loop_at(thing, str(closing.opener.port))
            return making.loop_minutes(self.assembly, loop, self.working)
        return rules.minutes_ring

    def _where(self, batch: Sequence[Closing]) -> str:
        """At which places: links of the carrier, holes of what carries it, else the runs."""
        members = self.assembly.members
        links: dict[str, set[int]] = {}
        ways: dict[str, str] = {}
        holes: dict[str, list[str]] = {}
        for closing in batch:
            by = members[closing.opener.member]
            for other in self._others(closing):
                host = members[other.member]
                if self.words.lies(host, by) != "above" or host.run == by.run:
                    continue
                if host.kind == "chain" and isinstance(other.port, int):
                    ways[host.run] = "from the fold" if host.item == 0 else self.words.counted(host)
                    links.setdefault(host.run, set()).add(link_from_fold(host, other.port)[1])
                elif host.kind == "connector":
                    holes.setdefault(by.run, []).append(str(other.port))
        unit = self.assembly.things.get(members[batch[0].opener.member].made_in or "")
        if batch[0].stage == "unit" and isinstance(unit, Cluster):
            each = ": one on each link, outward" if unit.links else ""
            return f"{self.words.part(unit.id)}{each}"
        if len(batch) > 1 and len(links) == 1:
            run, found = next(iter(links.items()))
            return self._links(run, found, ways[run])
        if len(batch) > 1 and len(holes) > 1:
            return "; ".join(f"{self.words.run([run])} at {listed(sorted(ports))}"
                             for run, ports in holes.items())  # fmt: skip
        runs = sorted({members[c.opener.member].run for c in batch} - {CLOSURE},
                      key=lambda run: self.plan.strands.order.get(run, 0))  # fmt: skip
        said = self.words.run(runs)
        sides = {members[c.opener.member].side for c in batch}
        one = sides.pop() if len(sides) == 1 else ""
        return f"{said}, {one}" if one in ("left", "right") else said

    def _links(self, run: str, found: set[int], way: str) -> str:
        """Links by their number from the fold: “Tier 1: on the fold and at links 6 and 12”."""
        rest = sorted(found - {0})
        said = ["on the fold"] if 0 in found else []
        if rest:
            said.append(f"at link{'s' if len(rest) > 1 else ''} {numbers(rest)} {way}")
        return f"{self.words.run([run])}: {' and '.join(said)}"

    def _sides(self, batch: Sequence[Closing]) -> str:
        """Left and right, or of a pair the other one mirrored."""
        openers = {closing.opener for closing in batch}
        twins = {self.plan.mirror.of(opener) for opener in openers}
        sided = any(self.plan.mirror.of(o) not in (o, None) for o in openers)
        both = "left and right" if sided and len(batch) > 1 and openers == twins else ""
        return _pair(both, self.assembly.piece.pair)

    def _up(self, takes: Sequence[Taken]) -> tuple[str, ...]:
        found = []
        for one in takes:
            thing = self.assembly.thing(self.assembly.members[one.member])
            if isinstance(thing, Connector) and len(thing.holes) > 1:
                found.append(f"{self.words.part(thing.id)}: face up{_uppermost(thing)}")
        return tuple(dict.fromkeys(found))

    # looks, needs, cautions

    def finished(self, steps: Sequence[Step]) -> tuple[Step, ...]:
        line = _with_looks(self, [*steps])
        seen: set[str] = set()
        touched: dict[object, str] = {}
        found: list[Step] = []
        for step in line:
            keys = self._touches(step)
            needs = dict.fromkeys(touched[key] for key in keys if key in touched)
            if step.verb in ("look", "measure", "wait") and found:
                needs = dict.fromkeys([*needs, found[-1].id])
            name = _unique(step.id, seen)
            cautions = cautions_of(self.assembly, step, {c for s in found for c in s.cautions})
            times = self.copies if step.closings else 1
            found.append(replace(step, id=name, needs=tuple(needs), cautions=cautions,
                                 minutes=step.minutes * times))  # fmt: skip
            touched.update(dict.fromkeys(keys, name))
        return tuple(found)

    def _touches(self, step: Step) -> list[object]:
        """Members, and parts that were readied for them."""
        if step.stage in ("ready", "unit") and not step.closings:
            return list(step.things)
        members = [c.opener.member for c in step.closings]
        for closing in step.closings:
            members += [other.member for other in self._others(closing)]
        members = list(dict.fromkeys([*members, *step.in_hand]))
        refs = dict.fromkeys(self.assembly.members[m].ref for m in members)
        return [*members, *refs]


def _pair(mirror: str, pair: bool) -> str:
    """Of an earring pair each step is done for the other one too."""
    other = "the other one mirrored"
    return ", then ".join(filter(None, (mirror, other))) if pair else mirror


def _unique(name: str, seen: set[str]) -> str:
    number, own = 1, name
    while own in seen:
        number += 1
        own = f"{name} #{number}"
    seen.add(own)
    return own


def _loop_at(unit: BeadLink | Dangle, port: str) -> Loop:
    return far_loop(unit) if isinstance(unit, BeadLink) and port == "b" else unit.loop


def _times(count: int, words: str) -> str:
    """“2 × Ring 4 (c)”, “the end links of 2 × Rolo 3 (c)” for what is taken so often."""
    for end in ("end", "top", "last"):
        if words.startswith(f"the {end} link of the "):
            return f"the {end} links of {count} × {words[len(f'the {end} link of the ') :]}"
    return f"{count} × {words.removeprefix('the ').removeprefix('a ')}"


def _beside(takes: Sequence[Taken]) -> tuple[Taken, ...]:
    """What is the same on either side is said once."""
    found: list[Taken] = []
    for one in takes:
        if not one.words:
            found.append(one)
            continue
        same = next((k for k, other in enumerate(found) if other.words == one.words), None)
        if same is not None:
            words = f"{a(one.words.removeprefix('the ').removeprefix('a '))} on each side"
            found[same] = one._replace(words=words)
            found.append(one._replace(words=""))
            continue
        name, by, loop = one.words.partition(" by its ")
        twin = next((k for k, other in enumerate(found) if by and loop.endswith("loop")
                     and other.words.startswith(f"{name} by its ")
                     and other.member != one.member), None)  # fmt: skip
        if twin is None:
            found.append(one)
            continue
        words = f"{a(name.removeprefix('the '))} by its loop on each side"
        found[twin] = found[twin]._replace(words=words)
        found.append(one._replace(words=""))
    return tuple(found)


def _uppermost(connector: Connector) -> str:
    """Which hole lies above all others, if one does."""
    top, *rest = sorted(connector.holes, key=lambda hole: -hole.y_mm)
    return f", hole {top.name} uppermost" if rest and rest[0].y_mm < top.y_mm - 0.1 else ""


MOST_MEASURED = 6


def _look(
    making_: _Making, runs: Sequence[str], lengths: dict[str, float | None], step: Step
) -> Step:
    """A look at what has just been finished, with what it measures."""
    assembly, words = making_.assembly, making_.words
    known = {run: mm for run in runs if (mm := lengths.get(run)) is not None}
    by_length: dict[str, list[str]] = {}
    for run, mm in known.items():
        by_length.setdefault(words.mm(mm), []).append(run)
    says = f"Look: lay {words.run(runs)} straight beside the picture."
    if len(by_length) == 1:
        says += f" {'It' if len(runs) == 1 else 'Each'} measures {next(iter(by_length))}."
    elif len(known) == 1:
        says += f" It measures {next(iter(by_length))}."
    elif known and len(by_length) <= MOST_MEASURED:
        says += " " + ", ".join(f"{words.run(own)} {mm}" for mm, own in by_length.items()) + "."
    first = next(iter(known.values()), None)
    in_hand = tuple(m.id for m in assembly.members if m.run == runs[0])
    return Step(f"look/{runs[0]}", step.stage, "look", says, measure_mm=first, in_hand=in_hand,
                minutes=assembly.rules.minutes_look)  # fmt: skip


def _with_looks(making_: _Making, steps: list[Step]) -> list[Step]:
    """A look after the first sub-assembly of a kind, after each row, before the closure; at the end
    it is tried and measured."""
    assembly, words, rules = making_.assembly, making_.words, making_.assembly.rules
    lengths = {run.name: run.length_mm for run in run_lengths(assembly)}
    found: list[Step] = []
    seen: set[str] = set()
    for k, step in enumerate(steps):
        first = step.stage == "close" and all(s.stage != "close" for s in found)
        told = bool(found) and found[-1].verb == "look" and len(assembly.runs) == 1
        if first and not told and any(s.closings for s in found):
            found.append(Step("look/all", "close", "look",
                              "Look: lay all of it out as it hangs. Is anything turned, twisted or "
                              "missing? Nothing is closed yet.", minutes=rules.minutes_look,
                              in_hand=tuple(m.id for m in assembly.members)))  # fmt: skip
        found.append(step)
        waits = k + 1 < len(steps) and steps[k + 1].verb == "wait"
        if step.stage not in ("sub", "row") or waits:
            continue
        made = steps[k - 1].closings if step.verb == "wait" else step.closings
        runs = {assembly.members[c.opener.member].run for c in made} - {CLOSURE}
        later = {assembly.members[c.opener.member].run for s in steps[k + 1 :]
                 if s.stage == step.stage for c in s.closings}  # fmt: skip
        done = sorted(runs - later - seen, key=lambda r: making_.plan.strands.order.get(r, 0))
        if done:
            seen.update(done)
            found.append(_look(making_, done, lengths, step))
    closed = closed_length_mm(assembly)
    says = "Try it: hang it on its form."
    if closed is not None:
        says += f" Done up it measures {words.mm(closed)}."
    if assembly.piece.pair:
        says = "Try them: hang both side by side. Are they level, and mirrored?"
    found.append(Step("try", "try", "measure", says, minutes=rules.minutes_look, measure_mm=closed,
                      in_hand=tuple(m.id for m in assembly.members)))  # fmt: skip
    if any(step.verb == "glue" for step in steps):
        cures = making_.working.glue_cures_min
        says = f"Let the glue cure, {_hours(cures)}, before it is worn."
        found.append(Step("wait/cure", "try", "wait", says, waits_min=cures))
    return found


def _hours(minutes: float) -> str:
    return f"{minutes / 60:g} hours" if minutes >= 120 else f"{minutes:g} minutes"
