"""Starting points: whole little pieces made from what lies in the tray, for a wearer and a length,
with fits that make them come right at once. A maker changes them from there.

Every skeleton answers the same short question: for whom, how long, how many. Raises DomainError
naming what the tray lacks.
"""

from collections.abc import Callable
from typing import Literal

from msgspec.structs import replace

from maglia.core.parts.parts import Chain, EarFinding, End, Wire
from maglia.core.parts.units import Cluster, Dangle
from maglia.core.piece.items import (
    ChainItem,
    ConnectorItem,
    Item,
    PartItem,
    RepeatItem,
    RingItem,
    StrungItem,
    UnitItem,
)
from maglia.core.piece.piece import Closure, DropRow, Form, Piece, Place, Run, TiedRows
from maglia.core.piece.wishes import Fit, HemFit, NestedFit, PlacesFit, SagFit, TiersFit
from maglia.core.values.record import DomainError, Value
from maglia.core.workshop.skeleton_kit import Asked, Kit
from maglia.core.workshop.tray import Tray


class Skeleton(Value, frozen=True):
    """One starting point: its name, what `count` counts, how many to begin with."""

    id: str
    name: str
    counts: str
    usual: int
    build: "Callable[[Kit, int], Piece]"


def started(skeleton: Skeleton, tray: Tray, asked: Asked) -> Piece:
    """The piece a skeleton makes; its fits are still to be solved."""
    if asked.count is not None and not 1 <= asked.count <= 60:
        raise DomainError(f"{asked.count} {skeleton.counts}: take 1 to 60")
    kit = Kit(tray, asked)
    piece = skeleton.build(kit, asked.count or skeleton.usual)
    return replace(kit.packed(piece), name=skeleton.name.capitalize(), wearer=asked.wearer)


BUST = Form(kind="bust")


def _dropped(kit: Kit, item_ref: str, links: int, *, unit: bool = True) -> tuple[Item, ...]:
    last: Item = UnitItem(unit=item_ref) if unit else PartItem(part=item_ref)
    small = kit.ring(2.5, 0.6)
    chain = (RingItem(part=small), ChainItem(part=kit.chain(2.0), links=links)) if links else ()
    return (*chain, *((RingItem(part=small),) if not links else ()), last)


def _single(kit: Kit, count: int) -> Piece:
    odd = count + 1 - count % 2
    row = DropRow(
        name="Drops",
        run="Strand",
        rule="every",
        every=4,
        count=odd,
        items=_dropped(kit, kit.dangle(), 6),
    )
    strand = Run(
        name="Strand",
        centre=ChainItem(part=kit.chain(3.0), links=131),
        items=(RingItem(part=kit.ring(4.0)),),
    )
    places = PlacesFit(name="places of Drops", row="Drops", rule="every", every=4, count=odd)
    return Piece(
        form=BUST,
        runs=(strand,),
        rows=(row,),
        closure=kit.closure(),
        fits=kit.necklace(70, places, HemFit(name="hem of Drops", row="Drops")),
    )


def _tiers(kit: Kit, count: int) -> Piece:
    strands = max(count, 2)
    first = Run(
        name="Tier 1",
        centre=ChainItem(part=kit.chain(2.0), links=201),
        items=(RingItem(part=kit.ring(4.0)),),
    )
    small = kit.ring(2.5, 0.6)
    others = [
        Run(
            name=f"Tier {k}",
            centre=ChainItem(part=kit.chain(4.0), links=101 + 14 * k),
            items=(RingItem(part=small),),
            end=Place(run="Tier 1", item=1, at=1),
        )
        for k in range(2, strands + 1)
    ]
    names = tuple(f"Tier {k}" for k in range(1, strands + 1))
    row = DropRow(
        name="Fringe",
        run="Tier 2",
        rule="every",
        every=4,
        count=7,
        items=_dropped(kit, kit.dangle(), 6),
    )
    fits: tuple[Fit, ...] = (
        TiersFit(name="tiers", strands=names, first_fall_mm=10.0, gaps_mm=(38.0,)),
        HemFit(name="hem of Fringe", row="Fringe", line="vee", rise_mm=12.0),
    )
    return Piece(form=BUST, runs=(first, *others), rows=(row,), closure=kit.closure(), fits=fits)


def _nested(kit: Kit, count: int) -> Piece:
    rows = min(max(count, 2), 3)
    fan = kit.connector(4, "fan")
    ends = ("upper", "middle", "lower") if rows == 3 else ("upper", "lower")
    holes = [h.name for h in fan.holes]
    if not {"closure", *ends} <= set(holes):
        raise DomainError("nested strands need an end bar with holes closure, upper, middle, lower")
    wires = [w for w in kit.tray.parts if isinstance(w, Wire) and w.sort == "cable"]
    cable, crimp = (
        kit.use(kit.first("beading cable", wires)),
        kit.use(
            kit.first(
                "crimp", (e for e in kit.tray.parts if isinstance(e, End) and e.sort == "crimp")
            )
        ),
    )
    beads = [p for p in kit.tray.parts if getattr(p, "role", "") == "bead"]
    bead = kit.use(kit.first("bead", sorted(beads, key=lambda b: b.material != "pearl")))
    names = ("Upper", "Middle", "Lower") if rows == 3 else ("Upper", "Lower")
    strung = [
        StrungItem(thread=cable, pattern=(bead,), times=41 + 6 * k, end=crimp) for k in range(rows)
    ]
    upper = Run(
        name="Upper",
        centre=strung[0],
        items=(
            ConnectorItem(part=fan.id, hole_in=ends[0], hole_out="closure"),
            RingItem(part=kit.ring(4.0)),
            ChainItem(part=kit.chain(3.0), links=25),
            RingItem(part=kit.ring(4.0)),
        ),
    )
    rest = [
        Run(name=names[k], centre=strung[k], end=Place(run="Upper", item=1, port=ends[k]))
        for k in range(1, rows)
    ]
    nested = NestedFit(name="nested", strands=names, clear_mm=6.0)
    return Piece(
        form=BUST, runs=(upper, *rest), closure=kit.closure(), fits=kit.necklace(110, nested)
    )


def _triangle(kit: Kit, count: int) -> Piece:
    top = max(count, 2)
    ring = kit.ring(6.0)
    row = TiedRows(
        name="Bib",
        unit=kit.link(mid=True),
        rows=tuple(range(top, 0, -1)),
        ring=ring,
        hang_ring=kit.ring(4.0),
        hang=(1,),
        sides=(
            RingItem(part=ring),
            ChainItem(part=kit.chain(3.0), links=40),
            RingItem(part=kit.ring(4.0)),
        ),
    )
    return Piece(form=BUST, rows=(row,), closure=kit.closure(), fits=kit.necklace(80))


def _swags(kit: Kit, count: int) -> Piece:
    vee = kit.connector(3, "vee")
    left, right, *rest = sorted(vee.holes, key=lambda h: (-abs(h.x_mm), h.x_mm))
    tip = rest[0].name if rest else right.name
    ring, link = kit.ring(4.0), kit.link(mid=False)
    items: list[Item] = [RingItem(part=ring)]
    for _ in range(max(count, 1)):
        items += [UnitItem(unit=link), RingItem(part=ring)]
    strand = Run(
        name="Strand",
        centre=ConnectorItem(part=vee.id, hole_in=left.name, hole_out=right.name),
        items=(*items, ChainItem(part=kit.chain(3.0), links=40), RingItem(part=ring)),
    )
    swags = [
        Run(
            name=f"Swag {k + 1}",
            kind="swag",
            lies="paired",
            items=(ChainItem(part=kit.chain(2.0), links=16),),
            start=Place(run="Strand", item=2 * k + 1),
            end=Place(run="Strand", item=2 * k + 3),
        )
        for k in range(max(count, 1))
    ]
    centre = Run(
        name="Centre",
        kind="drop",
        lies="fold",
        items=_dropped(kit, kit.dangle(), 0),
        start=Place(run="Strand", item=0, at=0, port=tip),
    )
    slack = SagFit(name="slack of swags", swags=tuple(s.name for s in swags), slack=0.35)
    return Piece(
        form=BUST,
        runs=(strand, *swags, centre),
        closure=kit.closure(),
        fits=kit.necklace(80, slack),
    )


def _linked(kit: Kit, count: int) -> Piece:
    links = count + 1 - count % 2
    link, ring = kit.link(mid=True), kit.ring(4.0)
    pairs: tuple[Item, ...] = (RingItem(part=ring), UnitItem(unit=link))
    side: list[Item] = list(pairs * (links // 2))
    items = (
        *side,
        RingItem(part=ring),
        ChainItem(part=kit.chain(3.0), links=40),
        RingItem(part=ring),
    )
    strand = Run(name="Strand", centre=UnitItem(unit=link), items=items)
    drop = Run(
        name="Middle drop",
        kind="drop",
        lies="fold",
        items=_dropped(kit, kit.dangle(), 9),
        start=Place(run="Strand", item=0, at=0, port="mid"),
    )
    return Piece(form=BUST, runs=(strand, drop), closure=kit.closure(), fits=kit.necklace(65))


def _lariat(kit: Kit, count: int) -> Piece:
    ring, small, chain = kit.ring(6.0), kit.ring(3.0), kit.chain(4.0)
    loop = Run(
        name="Loop",
        centre=RingItem(part=ring),
        items=(RingItem(part=small), ChainItem(part=chain, links=66)),
    )
    tails = [
        Run(
            name=f"Tail {k + 1}",
            kind="drop",
            lies="fold",
            items=(
                RingItem(part=small),
                ChainItem(part=chain, links=22 - 6 * k),
                RingItem(part=kit.ring(2.5, 0.6)),
                PartItem(part=kit.charm()),
            ),
            start=Place(run="Loop", item=0, at=0),
        )
        for k in range(min(max(count, 1), 3))
    ]
    closure = Closure(kind="over the head", catch=small)
    fits = (kit.to_length(),) if kit.asked.wearer.head_mm or kit.asked.length_mm else ()
    return Piece(form=BUST, runs=(loop, *tails), closure=closure, fits=fits)


def _round(sort: Literal["bracelet", "anklet"]) -> Callable[[Kit, int], Piece]:
    def build(kit: Kit, count: int) -> Piece:
        links = count + 1 - count % 2
        link, ring = kit.link(mid=False), kit.ring(4.0)
        side: tuple[Item, ...] = (RingItem(part=ring), UnitItem(unit=link))
        repeat = (RepeatItem(times=links // 2, items=side),) if links > 1 else ()
        items = (
            *repeat,
            RingItem(part=ring),
            ChainItem(part=kit.chain(3.0), links=8),
            RingItem(part=ring),
        )
        band = Run(name="Band", centre=UnitItem(unit=link), items=items)
        form = Form(kind="wrist" if sort == "bracelet" else "ankle")
        return Piece(
            sort=sort,
            form=form,
            runs=(band,),
            closure=kit.closure(),
            fits=(kit.to_length(),),
        )

    return build


def _earrings(kit: Kit, count: int) -> Piece:
    hooks = (p for p in kit.tray.parts if isinstance(p, EarFinding))
    hook, ring = kit.use(kit.first("ear finding", hooks)), kit.ring(3.0)
    bar = kit.connector(5, "bar")
    below = sorted((h for h in bar.holes if h.y_mm < 0), key=lambda h: h.x_mm)
    top = next((h for h in bar.holes if h.y_mm >= 0), bar.holes[0])
    middle = len(below) // 2
    runs = [
        Run(name="Hook", lies="fold", items=(PartItem(part=hook), RingItem(part=ring))),
        Run(
            name="Bar",
            kind="drop",
            lies="fold",
            items=(ConnectorItem(part=bar.id, hole_in=top.name, hole_out=below[middle].name),),
            start=Place(run="Hook", item=2),
        ),
        Run(
            name="Middle",
            kind="drop",
            lies="fold",
            items=_dropped(kit, kit.dangle(), 10),
            start=Place(run="Bar", port=below[middle].name),
        ),
    ]
    for k in range(1, min((count - 1) // 2, middle) + 1):
        runs.append(
            Run(
                name=f"Drop {k}",
                kind="drop",
                lies="paired",
                items=_dropped(kit, kit.dangle(), max(10 - 3 * k, 1)),
                start=Place(run="Bar", port=below[middle + k].name),
            )
        )
    return Piece(sort="earring", form=Form(kind="ear"), runs=tuple(runs), pair=True)


def _cluster(kit: Kit, count: int) -> Piece:
    chains = [c for c in kit.tray.parts if isinstance(c, Chain) and c.openable]
    carrier = sorted(chains, key=lambda c: -(c.pitches_mm or (0.0,))[0])
    dangles = [u for u in kit.tray.units if isinstance(u, Dangle)]
    hangs = sorted(dangles, key=lambda u: len(u.stack))[:2]
    cluster = Cluster(
        id="cluster",
        name="Cluster on chain",
        carrier=kit.first("openable chain", carrier).id,
        links=max(count, 1),
        hangs=tuple(u.id for u in hangs) or (kit.dangle(),),
    )
    kit.use(cluster)
    band = Run(
        name="Band",
        centre=UnitItem(unit=cluster.id),
        items=(RingItem(part=kit.ring(3.0)), RingItem(part=kit.ring(4.0))),
    )
    return Piece(
        sort="bracelet",
        form=Form(kind="wrist"),
        runs=(band,),
        closure=kit.closure(),
        fits=(kit.to_length(),),
    )


SKELETONS: tuple[Skeleton, ...] = (
    Skeleton("single", "strand with drops", "drops", 7, _single),
    Skeleton("tiers", "tiers", "strands", 3, _tiers),
    Skeleton("nested", "nested strands", "strands", 3, _nested),
    Skeleton("triangle", "triangle of bead links", "links in the top row", 4, _triangle),
    Skeleton("swags", "swags with a centre", "swags on each side", 2, _swags),
    Skeleton("linked", "linked centre", "links", 5, _linked),
    Skeleton("lariat", "lariat", "tails", 2, _lariat),
    Skeleton("bracelet", "bracelet", "links", 5, _round("bracelet")),
    Skeleton("anklet", "anklet", "links", 7, _round("anklet")),
    Skeleton("earrings", "earring pair", "drops on each", 5, _earrings),
    Skeleton("cluster", "cluster bracelet", "links of the cluster", 26, _cluster),
)
