"""Lists of parts as CSV: a supplier's list in, by pointing its columns at sizes; the tray out.

A row is a part or it is refused with its reason; what comes of it is all or nothing. Encodings,
separators, decimal comma and headings are guessed, and every guess can be set otherwise.
"""

import csv
import io
import math
import re
from collections.abc import Callable, Iterable, Sequence
from functools import lru_cache
from typing import Any

import msgspec

from maglia.core.parts.kinds import COLOURS, KINDS, MATERIALS, Kind
from maglia.core.parts.parts import Bead, Chain, Connector, Hole, Part, Ring, Wire
from maglia.core.parts.sizes import figure
from maglia.core.values.gauges import gauge_mm
from maglia.core.values.measures import amount_at
from maglia.core.values.record import DomainError, Value
from maglia.core.workshop.lying import Deed, amount_of_mm, by_length, measured_um

ENCODINGS = ("utf-8-sig", "utf-16", "latin-1")
SEPARATORS = (",", ";", "\t", "|")
MOST_ROWS, MOST_COLUMNS, MOST_MB = 200_000, 200, 64
SAMPLE_ROWS = 50
UNITS = ("mm", "cm", "in", "AWG", "SWG", "g", "kg", "pieces", "m", "links")

TARGETS: dict[str, tuple[str, ...]] = {
    "": (), "name": ("name", "description", "title", "item", "bezeichnung", "article"),
    "kind": ("kind", "type", "category", "art"), "material": ("material", "metal", "finish"),
    "colour": ("colour", "color", "farbe"), "closure": ("closure", "closed"),
    "inner": ("inner", "inside diameter", "id", "innen"),
    "outer": ("outer", "outside diameter", "od", "aussen", "außen"),
    "wire": ("wire", "gauge", "thickness of wire", "draht"), "pitch": ("pitch", "link length"),
    "inner width": ("inner width", "inside width", "link width"), "inside": ("inside",),
    "length": ("length", "long", "länge"),
    "width": ("width", "wide", "breite"), "height": ("height", "high", "höhe"),
    "thickness": ("thickness", "thick"), "hole": ("hole", "bore", "loch"),
    "head": ("head",), "eye": ("eye",), "span": ("span",), "gape": ("gape",), "jaw": ("jaw",),
    "bar": ("bar",), "loop": ("loop",), "takes": ("takes",), "below": ("below",),
    "mass": ("mass", "weight", "gewicht"), "price": ("price", "cost", "preis"),
    "pack": ("pack", "per pack", "packung"), "sold": ("sold", "length as sold"),
    "stock": ("stock", "quantity", "qty", "in stock", "menge", "pieces"),
    "adds": ("adds",), "coil": ("coil",),
    "covers": ("covers",), "stretch": ("stretch",), "breaks": ("breaks",),
    "holds": ("holds",), "shape": ("shape", "look", "outline"), "opens": ("opens", "openable"),
    "temper": ("temper",), "note": ("note", "remark", "comment"), "holes": ("holes",),
}  # fmt: skip
"""What a column can be pointed at, with headings it is guessed by."""

_FIELDS: dict[str, tuple[str, ...]] = {
    "inner": ("inner_mm", "inner_width_mm"), "inner width": ("inner_width_mm",),
    "wire": ("wire_mm", "loop_wire_mm"), "pitch": ("pitches_mm",),
    "inside": ("inner_mm", "inner_width_mm"), "length": ("length_mm",),
    "width": ("width_mm",), "height": ("height_mm",), "thickness": ("thickness_mm",),
    "hole": ("hole_mm",), "head": ("head_mm",), "eye": ("eye_inner_mm", "eye_mm"),
    "span": ("span_mm",), "gape": ("gape_mm",), "jaw": ("jaw_wire_mm",), "bar": ("bar_mm",),
    "loop": ("loop_mm",), "takes": ("takes_mm",), "below": ("below_mm",),
    "adds": ("adds_mm",), "coil": ("coil_mm",), "covers": ("covers_mm",),
    "sold": ("sold_mm",),
}  # fmt: skip
"""Fields a size stands for; the first that a kind has."""
_PLAIN = {
    "pack": "pack",
    "stretch": "stretch_limit",
    "breaks": "breaking_load_g",
    "holds": "holds_g",
}
"""Figures that are no lengths."""
_SHAPES = ("shape", "look", "outline")
_WORDS = ("material", "colour", "closure", "note", "holes", "temper", "opens", "shape")


class Table(Value, frozen=True):
    """A list as it was read: heading, rows, and what was guessed about the file."""

    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    encoding: str
    separator: str


class Column(Value, frozen=True):
    """What a column is pointed at (nothing: it is left out) and the unit its bare figures have."""

    target: str = ""
    unit: str = "mm"


class Refused(Value, frozen=True):
    """A row that is no part: its line in the file, why, and the row."""

    line: int
    reason: str
    row: tuple[str, ...]


class Brought(Value, frozen=True):
    """What a list came to."""

    parts: tuple[Part, ...]
    lies: tuple[tuple[Part, Deed], ...]
    refused: tuple[Refused, ...]
    same: int = 0
    """Rows that say what the tray holds already."""


def read_table(data: bytes, encoding: str = "", separator: str = "") -> Table:
    """The table in a file's bytes. Raises DomainError naming what it is not."""
    if len(data) > MOST_MB * 1_000_000:
        raise DomainError(f"the list is larger than {MOST_MB} MB: import it in parts")
    encoding = encoding or _encoding(data)
    try:
        text = data.decode(encoding)
    except UnicodeError:
        raise DomainError(f"the list is not in {encoding}: choose another encoding") from None
    if "\0" in text:
        raise DomainError("this is no list: it holds characters that no text has")
    separator = separator or _separator(text)
    try:
        rows = list(csv.reader(io.StringIO(text, newline=""), delimiter=separator, strict=True))
    except csv.Error as fault:
        raise DomainError(f"a quoted cell does not end as it began: {fault}") from None
    rows = [row for row in rows if any(cell.strip() for cell in row)]
    if len(rows) < 2:
        raise DomainError("the list holds a heading at most: there is nothing to import")
    wide = max(len(row) for row in rows)
    if len(rows) > MOST_ROWS or wide > MOST_COLUMNS:
        raise DomainError(f"{len(rows)} rows of {wide} cells are too many: import it in parts")
    whole = [tuple(cell.strip() for cell in row) + ("",) * (wide - len(row)) for row in rows]
    return Table(whole[0], tuple(whole[1:]), encoding, separator)


def _encoding(data: bytes) -> str:
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return "utf-16"
    if data[:400:2].count(0) > 20 or data[1:400:2].count(0) > 20:  # without a mark
        return "utf-16-le" if data[1:400:2].count(0) > data[:400:2].count(0) else "utf-16-be"
    try:
        data.decode("utf-8-sig")
    except UnicodeError:
        return "latin-1"
    return "utf-8-sig"


def _separator(text: str) -> str:
    """The one that cuts the first lines into the same number of cells, more than one."""
    lines = text.splitlines()[:SAMPLE_ROWS]

    def alike(separator: str) -> tuple[bool, int]:
        try:
            counts = [len(row) for row in csv.reader(lines, delimiter=separator) if row]
        except csv.Error:
            return (False, 0)
        usual = max(set(counts), key=counts.count) if counts else 0
        return (usual > 1 and counts.count(usual) >= 0.8 * len(counts), usual)

    return max(SEPARATORS, key=alike)


def guessed(table: Table) -> tuple[Column, ...]:
    """What each column is by its heading, and the unit that it says; of several that could be the
    same, the one whose heading says it best."""
    guesses = [_guess(head) for head in table.head]
    best: dict[str, int] = {}
    for k, (rank, column) in enumerate(guesses):
        held = best.get(column.target)
        if column.target and (held is None or rank < guesses[held][0]):
            best[column.target] = k
    return tuple(
        column if best.get(column.target) == k else Column()
        for k, (_, column) in enumerate(guesses)
    )


def _guess(head: str) -> tuple[tuple[bool, int], Column]:
    """What a heading says, and how well: exactly before among other words."""
    low = head.lower()
    unit = next((u for u in ("AWG", "SWG", "cm", "mm", "in", "kg", "links")
                 if re.search(rf"\b{u.lower()}\b", low)), "")  # fmt: skip
    plain = re.sub(r"[(\[].*?[)\]]|\b(?:mm|cm|inch|awg|swg|g)\b|[_.:]", " ", low)
    plain = " ".join(plain.split())
    found = [
        ((plain != word, rank), target)
        for target, words in TARGETS.items()
        for rank, word in enumerate(words)
        if re.search(rf"\b{re.escape(word)}\b", plain)
    ]
    if not found:
        return (True, 99), Column()
    rank, target = min(found, key=lambda one: (one[0][0], -len(TARGETS[one[1]][one[0][1]]), one[0]))
    usual = {"mass": "g", "stock": "pieces"}.get(target, "mm")
    return rank, Column(target, unit or usual)


def brought_in(
    table: Table,
    columns: Sequence[Column],
    kind: str = "",
    known: Iterable[Part] = (),
    stopped: Callable[[], bool] = lambda: False,
    progress: Callable[[int], object] = lambda _: None,
) -> Brought | None:
    """The parts of a list: `kind` for rows that do not say it themselves. None if it was stopped.
    Parts that `known` has already, alike but for their id, are counted and left."""
    by_id = {part.id: part for part in known}
    parts: list[Part] = []
    lies: list[tuple[Part, Deed]] = []
    refused: list[Refused] = []
    same = 0
    for k, row in enumerate(table.rows):
        if k % 500 == 0:
            progress(k)
            if stopped():
                return None
        try:
            part, stock = _part(row, columns, kind)
            deed = None if stock is None else _deed(part, *stock)
        except DomainError as fault:
            refused.append(Refused(k + 2, str(fault), row))
            continue
        part, is_known = _with_free_id(part, by_id)
        same += is_known
        if not is_known:
            by_id[part.id] = part
            parts.append(part)
        if deed is not None:
            lies.append((part, deed))
    return Brought(tuple(parts), tuple(lies), tuple(refused), same)


def _with_free_id(part: Part, by_id: dict[str, Part]) -> tuple[Part, bool]:
    ref, k = part.id, 1
    while ref in by_id:
        if msgspec.structs.replace(by_id[ref], id=part.id) == part:
            return by_id[ref], True
        k += 1
        ref = f"{part.id}-{k}"
    return (part if ref == part.id else msgspec.structs.replace(part, id=ref)), False


def _part(row: Sequence[str], columns: Sequence[Column], kind: str) -> tuple[Part, Any]:
    cells = {c.target: (_plain(row[k]), c.unit) for k, c in enumerate(columns)
             if c.target and k < len(row) and row[k].strip()}  # fmt: skip
    name = cells.pop("name", ("", ""))[0]
    said = cells.pop("kind", ("", ""))[0]
    found = _kind(said) or (_kind(kind) if kind else None) or _kind(name)
    if found is None:
        what = f"“{said}” is no kind of part" if said else "it does not say what kind of part it is"
        raise DomainError(f"{what}: choose one for all rows, or point a column at it")
    fields: dict[str, Any] = dict(found.fixed)
    stock = cells.pop("stock", None)
    for target, (cell, unit) in cells.items():
        _set(found, fields, target, cell, unit)
    _finish(found, fields)
    if not name:
        name = " ".join([said or found.words, figure(fields.get(found.sizes[0]))])
    ref = re.sub(r"[^\w.]+", "-", name.lower()).strip("-")[:100] or "part"
    raw = {"kind": found.part.__struct_config__.tag, "id": ref, "name": name[:120], **fields}
    try:
        return msgspec.convert(raw, found.part), stock
    except msgspec.ValidationError as fault:
        words, _, where = str(fault).partition(" - at `$.")
        field = where.rstrip("`").removesuffix("_mm").replace("_", " ")
        raise DomainError(f"{field}: {words.lower()}" if field else words.lower()) from None


_BY_WORDS = {kind.words: kind for kind in KINDS}
_ANY_KIND = re.compile(rf"\b({'|'.join(sorted(_BY_WORDS, key=len, reverse=True))})s?\b")


def _kind(text: str) -> Kind | None:
    """The kind that a text names; the one that stands last, since a bead cap is a cap."""
    found = _ANY_KIND.findall(text.lower().replace("-", " "))
    return _BY_WORDS[found[-1]] if found else None


def _set(kind: Kind, fields: dict[str, Any], target: str, cell: str, unit: str) -> None:
    own = kind.part.__struct_fields__
    if target in _WORDS:
        _set_words(kind, fields, target, cell)
    elif target in ("price", "mass"):
        by_metre = f"{'mass_g' if target == 'mass' else 'price'}_per_m"
        field = by_metre if by_metre in own else "mass_g" if target == "mass" else "price"
        fields[field] = _number(cell, target) * (1000 if unit == "kg" else 1)
    elif target in _PLAIN:
        if _PLAIN[target] not in own:
            raise DomainError(f"a {kind.words} has no {target}: leave that column out for it")
        value = _number(cell, target) * (1000 if unit == "kg" else 1)
        fields[_PLAIN[target]] = int(value) if value == int(value) else value
    elif target == "outer":
        if kind.part is not Ring:
            raise DomainError(f"a {kind.words} has no outer size")
        fields["outer"] = _mm(cell, unit)
    else:
        field = next((field for field in _FIELDS[target] if field in own), "")
        if not field:
            raise DomainError(f"a {kind.words} has no {target}: leave that column out for it")
        if field == "pitches_mm":
            fields[field] = [_mm(part, unit) for part in re.split(r"[\s/]+", cell)]
        else:
            fields[field] = _mm(cell, unit)


def _set_words(kind: Kind, fields: dict[str, Any], target: str, cell: str) -> None:
    low = cell.lower()
    if target == "note":
        fields["note"] = cell
    elif target == "holes":
        fields["holes"] = [msgspec.to_builtins(hole) for hole in _holes(cell)]
    elif target == "material":
        known = {**{name: name for name in MATERIALS.values()}, **MATERIALS}
        words = low.replace("plated", "-plated").replace(" -plated", "-plated").replace("--", "-")
        found = known.get(low) or next((known[w] for w in words.split() if w in known), None)
        if found is None:
            raise DomainError(f"“{cell}” is no material that is known: {', '.join(MATERIALS)}")
        fields["material"] = found
    elif target in ("closure", "temper"):
        fields[target] = low
    elif target == "opens":
        fields["openable"] = low in ("yes", "true", "1", "openable")
    elif target == "shape":
        own = kind.part.__struct_fields__
        fields[next((name for name in _SHAPES if name in own), "shape")] = low
    elif "colour" in kind.part.__struct_fields__:
        colour = low if low.startswith("#") else COLOURS.get(low)
        if colour is None:
            raise DomainError(f"“{cell}” is no colour that is known")
        fields["colour"] = colour


def _finish(kind: Kind, fields: dict[str, Any]) -> None:
    """What follows from the sizes: a ring's inside from its outside, a round bead's width."""
    outer = fields.pop("outer", None)
    if outer is not None and "inner_mm" not in fields:
        wire = fields.get("wire_mm")
        if wire is None:
            raise DomainError("an outer size needs the wire")
        fields["inner_mm"] = round(outer - 2 * wire, 6)
    if kind.part is Bead and fields.get("shape", "round") == "round":
        if "width_mm" in fields and "length_mm" not in fields:
            fields["length_mm"] = fields["width_mm"]
        elif "length_mm" in fields:
            fields.setdefault("width_mm", fields["length_mm"])
    if issubclass(kind.part, Connector) and "holes" not in fields:
        raise DomainError("a connector needs its holes: left -12 0 1.6; right 12 0 1.6")


def _plain(cell: str) -> str:
    """A cell without the mark that keeps a spreadsheet from computing it."""
    return cell[1:] if cell[:1] == "'" and cell[1:2] in _COMPUTED else cell


@lru_cache(4096)  # lists say the same figures again and again
def _number(cell: str, what: str) -> float:
    text = re.sub(r"[^\d.,\-]", "", cell)
    if re.fullmatch(r"\d{1,3}(?:,\d{3})+(?:\.\d+)?", text):
        text = text.replace(",", "")
    elif re.fullmatch(r"\d{1,3}(?:\.\d{3})+,\d+", text):
        text = text.replace(".", "")
    try:
        found = float(text.replace(",", "."))
    except ValueError:
        found = math.nan
    if not math.isfinite(found):
        raise DomainError(f"{what} “{cell}” is no figure")
    return found


@lru_cache(4096)
def _mm(cell: str, unit: str) -> float:
    if unit in ("AWG", "SWG"):
        return gauge_mm(int(_number(cell, "gauge")), unit)
    found = amount_at(cell, 0)
    if found is None or cell[found[1] :].strip():
        gauge = re.fullmatch(r"(\d+)\s*(AWG|SWG)", cell.strip(), re.IGNORECASE)
        if gauge:
            return gauge_mm(int(gauge[1]), gauge[2].upper())
        raise DomainError(f"“{cell}” is no size")
    if found[0].kind not in ("plain", "length"):
        raise DomainError(f"“{cell}” is no size")
    if found[0].value <= 0:
        raise DomainError(f"“{cell}” is no size: it must be above zero")
    return found[0].mm(unit if unit in ("mm", "cm", "in") else "mm")  # type: ignore[arg-type]


def _holes(cell: str) -> list[Hole]:
    found = []
    for one in cell.split(";"):
        words = one.split()
        try:
            x, y = float(words[-3]), float(words[-2])
            wide = None if words[-1] == "?" else float(words[-1])
            found.append(Hole(name=" ".join(words[:-3]), x_mm=x, y_mm=y, diameter_mm=wide))
        except (ValueError, IndexError):
            raise DomainError(f"hole “{one.strip()}”: write name x y diameter") from None
    return found


def _deed(part: Part, cell: str, unit: str) -> Deed | None:
    if by_length(part):
        if unit in ("pieces", "links") and isinstance(part, Chain):
            return Deed("counted", int(_number(cell, "stock")), lot="lot 1")
        mm = _number(cell, "stock") * {"mm": 1, "cm": 10, "in": 25.4}.get(unit, 1000)
        amount = amount_of_mm(part, mm)
        if amount is None:
            raise DomainError("its pitch is not known, so its links cannot be counted")
        measure = measured_um(part, mm)
        return Deed("counted", amount, "lot 1", measured_um=measure) if amount else None
    count = _number(cell, "stock")
    if count != int(count) or count < 0:
        raise DomainError(f"stock “{cell}” is no whole number of pieces")
    return Deed("counted", int(count)) if count else None


# --- out ------------------------------------------------------------------------------------------

_COMPUTED = ("=", "+", "-", "@", "\t", "\r")
_OUT = tuple(
    target for target in TARGETS if target not in ("", "outer", "inside", "holes", "stock")
)


def parts_csv(parts: Iterable[Part], stock: Callable[[Part], str] = lambda _: "") -> str:
    """Parts as a list that can be read again; a cell that a spreadsheet would compute is marked."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([*_OUT, "holes", "stock"])
    for part in parts:
        writer.writerow([_safe(_cell(part, target)) for target in (*_OUT, "holes")] + [stock(part)])
    return out.getvalue()


def refused_csv(table: Table, refused: Iterable[Refused]) -> str:
    """Refused rows with their lines and reasons, to be mended and imported again."""
    out = io.StringIO()
    writer = csv.writer(out, delimiter=table.separator, lineterminator="\n")
    writer.writerow([*table.head, "line", "reason"])
    for one in refused:
        writer.writerow([*map(_safe, one.row), one.line, one.reason])
    return out.getvalue()


def _safe(cell: str) -> str:
    plain = re.fullmatch(r"[-+]?\d+(?:[.,]\d+)?", cell)
    return f"'{cell}" if cell[:1] in _COMPUTED and not plain else cell


def kind_said(part: Part) -> str:
    """The words of the kind that makes just such a part."""
    raw = msgspec.structs.asdict(part)
    fits = [kind for kind in KINDS if kind.part is type(part)
            and all(raw[name] == value for name, value in kind.fixed.items()
                    if name not in ("material", "shape"))]  # fmt: skip
    best = max(fits, key=lambda kind: (len(kind.fixed), kind.words != "bangle"))
    if isinstance(part, Ring):
        return "rubber ring" if part.closure == "elastic" else "ring"
    return best.words


def _cell(part: Part, target: str) -> str:
    if target == "name":
        return part.name
    if target == "kind":
        return kind_said(part)
    if target in ("material", "colour", "closure", "note", "temper"):
        return str(getattr(part, target, "") or "")
    if target == "opens":
        return "yes" if getattr(part, "openable", False) else ""
    if target == "shape":
        return str(next((getattr(part, name) for name in _SHAPES if hasattr(part, name)), ""))
    if target in _PLAIN:
        value = getattr(part, _PLAIN[target], None)
        return "" if value is None else figure(value)
    if target in ("mass", "price"):
        field = {"mass": "mass_g", "price": "price"}[target]
        field = (
            f"{field}_per_m"
            if isinstance(part, Chain | Wire) and hasattr(part, f"{field}_per_m")
            else field
        )
        return figure(getattr(part, field)) if getattr(part, field) is not None else ""
    if target == "holes":
        holes = part.holes if isinstance(part, Connector) else ()
        return "; ".join(f"{h.name} {h.x_mm!r} {h.y_mm!r} {figure(h.diameter_mm)}" for h in holes)
    field = next((f for f in _FIELDS[target] if hasattr(part, f)), "")
    value = getattr(part, field, None)
    return "" if value is None else figure(value)
