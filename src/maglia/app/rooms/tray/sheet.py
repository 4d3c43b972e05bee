"""The sheet of what is current in the Tray: its drawing with figures to type over, what else is
known of it, what lies there, and where it stands.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import partial
from itertools import pairwise
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QGridLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from maglia.app.own_keys import Choice
from maglia.app.plain_text import Label
from maglia.app.rooms.tray.drawing import Drawing
from maglia.app.rooms.tray.lies_here import LiesHere
from maglia.app.rooms.tray.stands_in import StandsIn
from maglia.app.session.session import Session
from maglia.app.size_box import SizeBox
from maglia.app.theme import Theme, scaled
from maglia.core.parts.parts import Bead, Chain, Connector, Hole, Part, Ring, Wire, part_mass_g
from maglia.core.parts.sizes import choices_of, figure, missing, outer_mm, sizes_of, with_field
from maglia.core.parts.units import BeadLink, Dangle, Unit, unit_span_mm
from maglia.core.parts.written import OUTER, read_mm, with_written
from maglia.core.piece.needed import made_of
from maglia.core.piece.piece import Wearer
from maglia.core.values.gauges import gauge_words
from maglia.core.values.record import DomainError
from maglia.core.workshop.compartments import Kept, kind_words, name_of

GIRTHS = ("neck_mm", "wrist_mm", "ankle_mm", "hand_mm", "head_mm", "ease_mm")
PLAIN = {
    "closure": "closure", "temper": "temper", "look": "links", "role": "is a", "shape": "shape",
    "head": "foot", "sort": "sort", "outline": "outline", "material": "material",
}  # fmt: skip
SOLD = {"sold_mm": "length as sold", "on_strand": "on a strand"}
HOLE_KEYS = "H: arrows move it 0.5 mm, Shift 0.1 · Space next · + − more, less · O outline"


class Sheet(QScrollArea):
    """Signals: `changed(record, words, merged)` it is other now, merged with the change before it
    if that was of the same words · `said(str)`."""

    changed = Signal(object, str, bool)
    said = Signal(str)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.thing: Kept | None = None
        session.reshown.connect(self.on_reshown)
        self.boxes: dict[str, SizeBox] = {}
        self.choices: dict[str, Choice] = {}
        self._made_for: tuple[object, ...] = ()
        self.setObjectName("panel")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setMinimumWidth(wide_enough())
        self.kind = Label()
        self.kind.setObjectName("heading")
        self.name = self._box("name", self._take_name)
        self.name.setObjectName("title")
        self.name.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.drawing = Drawing(theme)
        self.unknown = Label()
        self.unknown.setObjectName("attention")
        self.unknown.setWordWrap(True)
        self.about = Label()
        self.about.setObjectName("quiet")
        self.about.setWordWrap(True)
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(8)
        self.grid.setVerticalSpacing(5)
        self.lies = LiesHere(session)
        self.stands = StandsIn(session, theme)
        self._compose()
        self.drawing.moved.connect(self._move_handle)
        self.drawing.picked.connect(lambda _: self.show_hole())
        self.drawing.added.connect(self._add_handle)
        self.drawing.taken_out.connect(self._take_out_handle)
        self.lies.said.connect(self.said)
        self.lies.weighed.connect(self._weighed)

    def _compose(self) -> None:
        self.inner = QWidget()
        self.inner.setObjectName("panel")
        column = QVBoxLayout(self.inner)
        column.setContentsMargins(16, 10, 14, 10)
        column.setSpacing(6)
        for widget in (self.kind, self.name, self.drawing, self.unknown, self.about):
            column.addWidget(widget)
        column.addLayout(self.grid)
        column.addSpacing(4)
        column.addWidget(self.lies)
        column.addWidget(self.stands)
        column.addStretch(1)
        self.setWidget(self.inner)

    def _box(self, name: str, take: Callable[[str], object]) -> SizeBox:
        box = SizeBox(name, take)
        box.refused.connect(self.said)
        return box

    # --- showing ------------------------------------------------------------------------------

    def show_thing(self, thing: Kept | None) -> None:
        """The sheet of a thing; of nothing it is empty."""
        self.thing = thing
        self.setVisible(thing is not None)
        if thing is None:
            return
        made_for = (type(thing), *self._layout_of(thing))
        if made_for != self._made_for:
            self._made_for = made_for
            self._make(thing)
            self._fill(thing)
            order: list[QWidget] = [self.name, *self.boxes.values(), *self.choices.values()]
            for one, other in pairwise(order):
                QWidget.setTabOrder(one, other)
        else:
            self._fill(thing)

    def _layout_of(self, thing: Kept) -> tuple[object, ...]:
        if isinstance(thing, Part):
            oval = isinstance(thing, Ring) and thing.inner_width_mm is not None
            return (*(size.field for size in sizes_of(thing)), oval)
        return ()

    def _make(self, thing: Kept) -> None:
        """Boxes and choices for a kind of thing. The drawing lets go of those that go: it may be
        resized before it is given others."""
        self.drawing.show_thing(None, {}, {})
        for box in (*self.boxes.values(), *self.choices.values()):
            box.hide()
            box.deleteLater()
        self.boxes, self.choices = {}, {}
        while self.grid.count():
            item = self.grid.takeAt(0)
            if item is not None and (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        if isinstance(thing, Wearer):
            self._make_rows([(field, _girth(field), 0) for field in GIRTHS])
        elif isinstance(thing, Part):
            self._make_part(thing)

    def _make_part(self, part: Part) -> None:
        from maglia.app.rooms.tray.dims import dims_of

        dims = dims_of(part)
        for dim in dims:
            if dim.way != "beside":
                self.boxes[dim.field] = self._box(dim.label, partial(self._take_size, dim.field))
        rows = [(dim.field, dim.label, 0) for dim in dims if dim.way == "beside"]
        rows += [(name, PLAIN.get(name, name), 1) for name in choices_of(part)]
        if isinstance(part, Connector):
            rows += [("hole_name", "hole", 0), ("hole_x", "across", 0), ("hole_y", "up", 0),
                     ("hole_wide", "wide", 0)]  # fmt: skip
        rows += [
            ("mass", "g a metre" if isinstance(part, Chain) else "g each", 0),
            ("price", "price a metre" if isinstance(part, Chain | Wire) else "price each", 0),
            ("sold", SOLD.get(_sold(part), "in a pack"), 0),
        ]
        if "colour" in part.__struct_fields__:
            rows.append(("colour", "colour", 0))
        self._make_rows(rows)
        self._wide_row("note", "note")
        if isinstance(part, Connector):
            keys = Label(HOLE_KEYS)
            keys.setObjectName("quiet")
            self.grid.addWidget(keys, self.grid.rowCount(), 0, 1, 4)

    def _make_rows(self, rows: list[tuple[str, str, int]]) -> None:
        """Two to a line: figures, then choices."""
        for k, (field, label, sort) in enumerate(rows):
            row, column = divmod(k, 2)
            words = Label(label)
            words.setObjectName("quiet")
            self.grid.addWidget(words, row, 2 * column)
            made = self._choice(field) if sort else self._field(field, label)
            words.setBuddy(made)
            self.grid.addWidget(made, row, 2 * column + 1)
            made.show()  # at once: a layout would show it later, and it can have the keys now
        for column in (1, 3):
            self.grid.setColumnStretch(column, 1)

    def _wide_row(self, field: str, label: str) -> None:
        words = Label(label)
        words.setObjectName("quiet")
        row = self.grid.rowCount()
        self.grid.addWidget(words, row, 0)
        made = self._field(field, label)
        made.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.grid.addWidget(made, row, 1, 1, 3)
        made.show()

    def _field(self, field: str, label: str) -> SizeBox:
        takes: dict[str, Callable[[str], object]] = {
            "mass": self._take_mass, "price": self._take_price,
            "sold": self._take_sold, "note": self._take_note,
            "colour": self._take_colour, "hole_name": partial(self._take_hole, "name"),
            "hole_x": partial(self._take_hole, "x_mm"), "hole_y": partial(self._take_hole, "y_mm"),
            "hole_wide": partial(self._take_hole, "diameter_mm"),
        }  # fmt: skip
        take = takes.get(field)
        if take is None and field in GIRTHS:
            take = partial(self._take_girth, field)
        made = self.boxes[field] = self._box(label, take or partial(self._take_size, field))
        return made

    def _choice(self, field: str) -> Choice:
        made = self.choices[field] = Choice()
        made.setObjectName("size")
        made.setAccessibleName(PLAIN.get(field, field))
        made.activated.connect(partial(self._chosen, field))
        return made

    def on_reshown(self) -> None:
        if self.thing is not None:
            self._say_kind(self.thing)

    def _say_kind(self, thing: Kept) -> None:
        """Its kind, and the gauge of its wire where gauges are wanted."""
        gauge = gauge_words(getattr(thing, "wire_mm", None), self.session.wire_unit)
        self.kind.setText(f"{kind_words(thing).upper()}{f' · WIRE {gauge}' if gauge else ''}")

    def _fill(self, thing: Kept) -> None:
        self._say_kind(thing)
        self.name.show_figure(name_of(thing))
        self.lies.show_thing(thing)
        self.stands.show_thing(thing)
        self.drawing.setVisible(not isinstance(thing, Wearer))
        if isinstance(thing, Wearer):
            for field in GIRTHS:
                self._show(field, getattr(thing, field))
            self._tell("Girths in mm; what is not known is left empty.")
            return
        things = {own.id: own for own in (*self.session.tray.parts, *self.session.tray.units)}
        if isinstance(thing, Unit):
            self.drawing.show_thing(thing, things, {})
            self._tell(_unit_words(thing, things))
            return
        self._fill_part(thing)
        on_lines = {
            dim.field: self.boxes[dim.field]
            for dim in _drawn_dims(thing)
            if dim.field in self.boxes
        }
        self.drawing.show_thing(thing, things, on_lines)
        self.show_hole()

    def _fill_part(self, part: Part) -> None:
        needs = {size.field: size.needed_for for size in missing(part)}
        for size in sizes_of(part):
            self._show(size.field, getattr(part, size.field), needs.get(size.field, ""))
        if isinstance(part, Ring):
            self._show(OUTER, outer_mm(part))
        for field, words in choices_of(part).items():
            box = self.choices[field]
            if not box.count():
                box.addItems(words)
            box.setCurrentText(str(getattr(part, field)))
        self._show("mass", part.mass_g_per_m if isinstance(part, Chain) else part.mass_g)
        self._show("price", part.price_per_m if isinstance(part, Chain | Wire) else part.price)
        self._show("sold", getattr(part, _sold(part)))
        about = part_mass_g(part)
        self.boxes["mass"].setPlaceholderText("" if about is None else f"about {about:.2g}")
        self.boxes["note"].show_figure(part.note.replace("\n", " · "))
        if "colour" in self.boxes:
            self.boxes["colour"].show_figure(getattr(part, "colour", None) or "")
        lacks = [f"{size.words} ?  {size.needed_for} needs it" for size in missing(part)]
        self.unknown.setText("\n".join(lacks))
        self.unknown.setVisible(bool(lacks))
        self.about.hide()

    def _tell(self, words: str) -> None:
        """Something about what has no sizes of its own."""
        self.unknown.hide()
        self.about.setText(words)
        self.about.show()

    def _show(self, field: str, value: float | tuple[float, ...] | None, why: str = "") -> None:
        if field in self.boxes:
            wanting = value is None and bool(why)
            shown = "" if value is None and not why else figure(value)
            self.boxes[field].show_figure(shown, unknown=wanting, why=why)

    def show_hole(self) -> None:
        """The figures of the hole, or corner, that is current."""
        handles = self.drawing.handles()
        if "hole_name" not in self.boxes:
            return
        part = self.thing
        if not handles or not isinstance(part, Connector):
            for field in ("hole_name", "hole_x", "hole_y", "hole_wide"):
                self.boxes[field].show_figure("")
            return
        name, x, y = handles[self.drawing.handle]
        self.boxes["hole_name"].show_figure(name)
        self.boxes["hole_x"].show_figure(figure(x))
        self.boxes["hole_y"].show_figure(figure(y))
        wide = None if self.drawing.corners else part.holes[self.drawing.handle].diameter_mm
        self.boxes["hole_wide"].show_figure(
            "" if self.drawing.corners else figure(wide),
            unknown=wide is None and not self.drawing.corners,
            why="" if self.drawing.corners else "the length of its runs needs it",
        )

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.setMinimumWidth(wide_enough())
        self.drawing.set_theme(theme)
        self.stands.set_theme(theme)

    # --- taking over --------------------------------------------------------------------------

    def _part(self) -> Any:
        if not isinstance(self.thing, Part):
            raise DomainError("there is no part on the sheet")
        return self.thing

    def _give(self, record: Kept, words: str, *, merged: bool = False) -> None:
        if record != self.thing:
            self.changed.emit(record, f"{name_of(record)}: {words}", merged)

    def _take_name(self, text: str) -> None:
        if self.thing is None:
            return
        if not text or len(text) > 120:
            raise DomainError("a name has 1 to 120 letters")
        if isinstance(self.thing, Wearer):
            raise DomainError("a wearer is kept by the role: enter a new one instead")
        self._give(replace(self.thing, name=text), f"called {text}")

    def _take_size(self, field: str, text: str) -> None:
        part = self._part()
        self._give(with_written(part, field, text), f"{self.boxes[field].name} {text or '?'}")

    def _take_girth(self, field: str, text: str) -> None:
        assert isinstance(self.thing, Wearer)
        mm = read_mm(text)
        if mm is not None and not 0 <= mm <= 2000:
            raise DomainError(f"{mm:g} mm is no girth of a person")
        if field == "ease_mm":
            mm = mm or 0.0
        elif mm == 0:
            raise DomainError("a girth is above zero; write ? if it is not known")
        self._give(replace(self.thing, **{field: mm}), f"{_girth(field)} {text or '?'}")

    def _take_mass(self, text: str) -> None:
        part = self._part()
        field = "mass_g_per_m" if isinstance(part, Chain) else "mass_g"
        unit = " g/m" if isinstance(part, Chain) else " g"
        value = _number(text.lower().removesuffix("/m").rstrip().removesuffix("g"), "mass")
        self._give(with_field(part, field, value), f"{text}{unit if text else ''}")

    def _take_price(self, text: str) -> None:
        part = self._part()
        field = "price_per_m" if isinstance(part, Chain | Wire) else "price"
        self._give(with_field(part, field, _number(text, "price")), f"price {text or '?'}")

    def _take_sold(self, text: str) -> None:
        part = self._part()
        field = _sold(part)
        value = read_mm(text) if field == "sold_mm" else _whole(_number(text, "number"), text)
        self._give(with_field(part, field, value), f"{SOLD.get(field, 'in a pack')} {text or '?'}")

    def _take_note(self, text: str) -> None:
        self._give(with_field(self._part(), "note", text.replace(" · ", "\n")), "note")

    def _take_colour(self, text: str) -> None:
        from maglia.core.parts.kinds import COLOURS

        colour = COLOURS.get(text.lower(), text) or None
        self._give(with_field(self._part(), "colour", colour), f"colour {text}")

    def _chosen(self, field: str, row: int) -> None:
        value = self.choices[field].itemText(row)
        try:
            self._give(with_field(self._part(), field, value), f"{PLAIN[field]} {value}")
        except DomainError as fault:
            self.said.emit(f"Not done: {fault}.")

    def _weighed(self, grams: float, words: str) -> None:
        try:
            self._give(with_field(self._part(), "mass_g", grams), words)
        except DomainError as fault:
            self.said.emit(f"Not done: {fault}.")

    # --- holes and corners --------------------------------------------------------------------

    def _take_hole(self, field: str, text: str) -> None:
        part, at = self._part(), self.drawing.handle
        if self.drawing.corners:
            if field not in ("x_mm", "y_mm"):
                raise DomainError("a corner has a place only")
            x, y = part.points_mm[at]
            value = _signed(text)
            self._put_handle(at, value if field == "x_mm" else x, value if field == "y_mm" else y)
            return
        if field == "name":
            if not text or any(h.name == text for k, h in enumerate(part.holes) if k != at):
                raise DomainError("a hole has a name of its own")
            self._put_holes(at, replace(part.holes[at], name=text), f"hole {text}")
            return
        value_mm = read_mm(text) if field == "diameter_mm" else _signed(text)
        hole = replace(part.holes[at], **{field: value_mm})
        self._put_holes(at, hole, f"hole {hole.name} {self.boxes['hole_' + field[0]].name}"
                        if field != "diameter_mm" else f"hole {hole.name} {text}")  # fmt: skip

    def _put_holes(self, at: int, hole: Hole, words: str, *, merged: bool = False) -> None:
        part = self._part()
        holes = tuple(hole if k == at else own for k, own in enumerate(part.holes))
        self._give(replace(part, holes=holes), words, merged=merged)

    def _put_handle(self, at: int, x: float, y: float, *, merged: bool = False) -> None:
        part = self._part()
        if self.drawing.corners:
            points = tuple((x, y) if k == at else own for k, own in enumerate(part.points_mm))
            self._give(replace(part, points_mm=points), f"corner {at + 1} moved", merged=merged)
        else:
            hole = replace(part.holes[at], x_mm=x, y_mm=y)
            self._put_holes(at, hole, f"hole {hole.name} moved", merged=merged)

    def _move_handle(self, at: int, x: float, y: float) -> None:
        if abs(x) > 500 or abs(y) > 500:
            return
        self._put_handle(at, x, y, merged=True)

    def _add_handle(self) -> None:
        part = self._part()
        if not isinstance(part, Connector):
            return
        if self.drawing.corners:
            self._give(
                replace(part, points_mm=_with_corner(part, self.drawing.handle)), "corner more"
            )
            self.drawing.pick(self.drawing.handle + 1)
            return
        if len(part.holes) >= 40:
            self.said.emit("Not done: a connector has at most 40 holes.")
            return
        taken = {hole.name for hole in part.holes}
        name = next(f"hole {k}" for k in range(1, 99) if f"hole {k}" not in taken)
        hole = Hole(name=name, x_mm=0.0, y_mm=0.0, diameter_mm=None)
        self._give(replace(part, holes=(*part.holes, hole)), f"{name} added")
        self.drawing.pick(len(part.holes))

    def _take_out_handle(self, at: int) -> None:
        part = self._part()
        if self.drawing.corners:
            points = part.points_mm[:at] + part.points_mm[at + 1 :]
            self._give(replace(part, points_mm=points if len(points) >= 3 else ()), "corner less")
        elif len(part.holes) == 1:
            self.said.emit("Not done: a connector has at least one hole.")
        else:
            name = part.holes[at].name
            self._give(
                replace(part, holes=part.holes[:at] + part.holes[at + 1 :]), f"no hole {name}"
            )
        self.drawing.pick(0)


def _with_corner(part: Connector, at: int) -> tuple[tuple[float, float], ...]:
    """One corner more, half way to the next; the first four are those of its box."""
    points = part.points_mm
    if len(points) < 3:
        wide, high = (part.width_mm or 20.0) / 2, (part.height_mm or 12.0) / 2
        return ((-wide, high), (wide, high), (wide, -high), (-wide, -high))
    (ax, ay), (bx, by) = points[at], points[(at + 1) % len(points)]
    return (*points[: at + 1], ((ax + bx) / 2, (ay + by) / 2), *points[at + 1 :])


def _drawn_dims(part: Part) -> tuple[Any, ...]:
    from maglia.app.rooms.tray.dims import dims_of

    return tuple(dim for dim in dims_of(part) if dim.way != "beside")


def _girth(field: str) -> str:
    return field.removesuffix("_mm")


def _number(text: str, what: str) -> float | None:
    if text.strip() in ("", "?"):
        return None
    return _figure(text, f"no {what}: write a figure, or ?")


def _whole(value: float | None, text: str) -> int | None:
    if value is not None and value != int(value):
        raise DomainError(f"“{text.strip()}” is no whole number")
    return None if value is None else int(value)


def _sold(part: Part) -> str:
    """The field that says how a part is bought."""
    if isinstance(part, Chain | Wire):
        return "sold_mm"
    return "on_strand" if isinstance(part, Bead) and part.pack is None else "pack"


def _signed(text: str) -> float:
    """A place, mm: it may be below zero."""
    return _figure(text, "no place: mm from the middle, such as -8")


def _figure(text: str, otherwise: str) -> float:
    plain = text.strip().replace(",", ".").replace("−", "-")
    if not re.fullmatch(r"[-+]?(?:\d+\.?\d*|\.\d+)", plain):
        raise DomainError(f"“{text.strip()}” is {otherwise}")
    return float(plain)


def _unit_words(unit: Unit, things: dict[str, Any]) -> str:
    made = [own.name for own in made_of([unit.id], things) if own.id != unit.id]
    span = unit_span_mm(unit, things) if isinstance(unit, BeadLink | Dangle) else None
    said = f"span {span:.1f} mm · " if span is not None else ""
    return f"{said}made of {', '.join(made)}" if made else "made of parts that are not in the tray"


def wide_enough() -> int:
    """Larger text gets more room, as far as the compartments can spare it."""
    return min(scaled(380), 600)
