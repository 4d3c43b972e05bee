"""Tassels and clusters: “new tassel floss skirt 25 wraps 36 neck 5 x 7, folded over ring 4”, “new
cluster ring 8 carrying 2 x (ring 4, teal dangle)”.
"""

from maglia.core.parts.parts import Bead, Chain, Charm, Part, Ring, Wire
from maglia.core.parts.units import (
    Cluster,
    Dangle,
    Tassel,
    Thing,
)
from maglia.phrases.here import Here
from maglia.phrases.items import HANGING, grouped, sequence
from maglia.phrases.names import Kinds
from maglia.phrases.strung import hung_by
from maglia.phrases.unit_names import named_unit
from maglia.phrases.words import (
    Misread,
    Words,
    at_commas,
    at_signs,
    is_sign,
    unknown,
)

CARRIED: Kinds = (Dangle, Tassel, Charm)

TASSEL = ("skirt", "wraps", "neck", "folded", "wound", "trim", "halo")
TASSEL_HINT = "new tassel floss skirt 25 wraps 36 neck 5 x 7, folded over ring 4, halo 12 seed"


def read_tassel(words: Words, here: Here, called: str = "") -> Tassel:
    """“floss skirt 25 wraps 36 neck 5 x 7, folded over ring 4, trim 2, halo 12 seed”."""
    marks = [k for k, word in enumerate(words) if word.low in TASSEL]
    ends = [*marks[1:], len(words)] if marks else []
    said: dict[str, Words] = {}
    for k, end in zip(marks, ends, strict=True):
        if words[k].low in said:
            raise unknown([words[k]], "is said twice")
        said[words[k].low] = tuple(w for w in words[k + 1 : end] if not is_sign(w, ","))
    name = tuple(w for w in (words[: marks[0]] if marks else words) if not is_sign(w, ","))
    if not name:
        raise Misread(f"say of what thread it is wound: {TASSEL_HINT}")
    thread = here.names.find(name, (Wire,), what="a tassel is wound of thread")
    for word in ("skirt", "wraps", "neck"):
        if not said.get(word) or said[word][0].amount is None:
            raise unknown(words, f"says no {word}: {TASSEL_HINT}")
    way = "folded" if "folded" in said else "wound"
    carrier = said.get(way, ())
    if not carrier or carrier[0].low not in ("over", "through"):
        raise unknown(words, f"says no ring that carries it: {TASSEL_HINT}")
    ring = here.names.find(carrier[1:], (Ring,), what="say the ring that carries it")
    neck = [w for w in said["neck"] if w.low != "x"]
    halo, count = None, 0
    if "halo" in said:
        halo = here.names.find(said["halo"][1:], (Bead,), what="say its beads").id
        count = said["halo"][0].whole or 0
        if not count:
            raise unknown(said["halo"], "says no number of beads: halo 12 seed")
    wraps = said["wraps"][0].whole
    if not wraps:
        raise unknown(said["wraps"], "is no number of wraps")
    for word, most in (("skirt", 1), ("wraps", 1), ("neck", 2), ("trim", 1)):
        extra = [w for w in said.get(word, ()) if w.low != "x"][most:]
        if extra:
            raise unknown(extra)
    unit = Tassel(
        id="new", name="new", thread=thread.id, ring=ring.id, skirt_mm=_mm(said["skirt"]),
        wraps=wraps, neck_mm=_mm(said["neck"]),
        neck_wraps=(neck[1].whole or 0) if len(neck) > 1 else 6, way=way,  # type: ignore[arg-type]
        trim_mm=_mm(said["trim"]) if said.get("trim") else 0.0, halo=halo, halo_count=count,
    )  # fmt: skip
    plain = thread.name.split(str(getattr(thread, "sort", "")))[0].strip() or thread.name
    return named_unit(unit, called or f"{plain} tassel", here, given=bool(called))  # type: ignore[return-value]


def _mm(words: Words) -> float:
    amount = words[0].amount
    if amount is None:
        raise unknown(words, "is no size")
    return amount.mm("mm")


def read_cluster(words: Words, here: Here, called: str = "") -> Cluster:
    """“ring 8 carrying 2 x (ring 4, teal)”, “5 cable carrying 2 rose each and teal at foot”."""
    at = next((k for k, word in enumerate(words) if word.low in ("carrying", "with")), None)
    if at is None or not words[at + 1 :] or not at:
        raise unknown(words, "says not what carries what: new cluster ring 8 carrying 2 x (ring 4, "
                      "teal)")  # fmt: skip
    carrier, links = _carrier(words[:at], here)
    parts = _carried(words[at + 1 :])
    foot: Thing | None = None
    hangs: list[str] = []
    rings: set[str | None] = set()
    turns = any(is_sign(word, "/") for word in words)
    for part in parts:
        if len(part) > 2 and part[-1].low == "foot" and part[-2].low == "at":
            if not links:
                raise unknown(part, "is of a cluster on chain: a ring has no foot")
            foot = here.names.find(part[:-2], CARRIED, what="say what hangs at its foot")
            continue
        refs, by = _hung(part, here)
        hangs += refs
        rings.add(by)
    if turns and not links:
        raise unknown(words, "goes by turns ( / ) along links; on a ring join by commas")
    if not hangs or len(hangs) > 60:
        raise unknown(words, "is more than 60 in one place" if hangs else "carries nothing")
    if len(rings) > 1:
        raise unknown(words, "carries some by a ring and some without: all hang by the same, or "
                      "none")  # fmt: skip
    unit = Cluster(
        id="new", name="new", carrier=carrier.id, links=links, hangs=tuple(hangs),
        by=next(iter(rings)), turns=turns, foot=foot.id if foot else None,
    )  # fmt: skip
    name = called or f"{carrier.name} cluster"
    return named_unit(unit, name, here, given=bool(called))  # type: ignore[return-value]


def _carried(words: Words) -> list[Words]:
    """Parts at commas, “and” and “/”."""
    return [turn for comma in at_commas(words) for both in at_signs(comma, "and")
            for turn in at_signs(both, "/")]  # fmt: skip


def _carrier(words: Words, here: Here) -> tuple[Part, int]:
    if words[0].whole and len(words) > 1:
        name = tuple(w for w in words[1:] if w.low not in ("links", "link", "of"))
        chain = here.names.find(name, (Chain,), what="links of a chain carry a cluster")
        return chain, words[0].whole  # type: ignore[return-value]
    return here.names.find(words, (Ring,), what="say the ring, or 5 cable"), 0  # type: ignore[return-value]


def _hung(words: Words, here: Here) -> tuple[list[str], str | None]:
    """“2 rose each”, “2 x (ring 4, teal)”: what hangs, and the ring it hangs by."""
    if words[-1].low == "each":
        words = words[:-1]
    if group := grouped(words):
        times, within = group
        refs, by = hung_by([sequence(within, here, last=HANGING)], words)
        return list(refs) * min(times, 61), by
    count, name = 1, words
    if words[0].whole and len(words) > 1:
        count, name = words[0].whole, words[2:] if words[1].low == "x" else words[1:]
    thing = here.names.find(name, CARRIED, what="in a cluster hang dangles, tassels and charms")
    return [thing.id] * min(count, 61), None
