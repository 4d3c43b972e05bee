"""The half-rule: one half of the piece to scale along a ruler, from the fold to the closure.

Where the maker works: arrows walk, + and − change counts, digits write a count or a length.
"""

from collections.abc import Callable
from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QObject, QPointF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QLineEdit

from maglia.app.painting.ruler import names_width, ruler_height
from maglia.app.rooms.bench.rule_canvas import RuleCanvas
from maglia.app.rooms.bench.rule_layout import Laid
from maglia.app.session.session import Session
from maglia.app.theme import Theme
from maglia.core.edits.edit import set_count, set_length
from maglia.core.edits.spots import Edited, Spot, count_at, first_spot, owner_of, spot_of
from maglia.core.parts.parts import Chain
from maglia.core.values.measures import Links, amount_at, format_links, parse_length
from maglia.core.values.record import DomainError, Value

EDGE_PX = 6.0


class Edge(Value, frozen=True):
    """The end of a chain that is being drawn: its links before, and the count it stands at."""

    spot: Spot
    links: int
    pitch_mm: float
    hangs: bool
    at: QPointF
    count: int = 0


class RuleView(RuleCanvas):
    """The score of the piece. Signals: `insert_wanted()` the maker asked for the insert line ·
    `pointed(Member, int)` a part, and which link or bead of it, while a place is asked for."""

    insert_wanted = Signal()
    pointed = Signal(object, int)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme)
        self.edge: Edge | None = None
        self.asks_place = False
        """A phrase is being written: what is pointed at is a place in it."""
        self.setMouseTracking(True)
        self.entry = QLineEdit(self)
        self.entry.setAccessibleName("Count or length under the cursor")
        self.entry.hide()
        self.entry.installEventFilter(self)

    # --- keys ---------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        five = 5 if shift else 1
        key = event.key()
        walk: Callable[..., None] = self.mark_by if control else self.walk
        handled: dict[int, Callable[[], object]] = {
            Qt.Key.Key_Right: partial(walk, five) if control else partial(walk, 1, extend=shift),
            Qt.Key.Key_Left: partial(walk, -five) if control else partial(walk, -1, extend=shift),
            Qt.Key.Key_Down: partial(self.change_lane, 1),
            Qt.Key.Key_Up: partial(self.change_lane, -1),
            Qt.Key.Key_Plus: partial(self.count_by, five),
            Qt.Key.Key_Equal: partial(self.count_by, five),
            Qt.Key.Key_Asterisk: partial(self.count_by, 5),
            Qt.Key.Key_Minus: partial(self.count_by, -five),
            Qt.Key.Key_Underscore: partial(self.count_by, -5),
            Qt.Key.Key_Return: self.insert_wanted.emit,
            Qt.Key.Key_Enter: self.insert_wanted.emit,
            Qt.Key.Key_Home: partial(self.walk, -1000),
            Qt.Key.Key_End: partial(self.walk, 1000),
        }
        if key in handled:
            handled[key]()
        elif event.text() and (event.text().isdigit() or event.text() in ".,"):
            self.start_entry(event.text())
        else:
            super().keyPressEvent(event)

    def order(self) -> list[Spot]:
        """Every item of the current run in order outward."""
        spot = self.session.spot
        if spot is None:
            return []
        return self.spots_of(spot.owner)

    def walk(self, by: int, *, extend: bool = False) -> None:
        """Move the cursor along its run; `extend` selects what it passes."""
        order, spot = self.order(), self.session.spot
        here = [k for k, own in enumerate(order) if spot is not None and own.within(spot)]
        if here:
            there = (here[-1] if by > 0 else here[0]) + by
            self.session.go(order[min(max(there, 0), len(order) - 1)], extend=extend)

    def change_lane(self, by: int) -> None:
        """Move to the run above or below, in the order they are drawn."""
        owners = list(dict.fromkeys(spot.owner for spot in self.session.by_spot))
        spot = self.session.spot
        if spot is None or spot.owner not in owners:
            return
        at = min(max(owners.index(spot.owner) + by, 0), len(owners) - 1)
        if owners[at] != spot.owner:
            self.session.go(first_spot(owner_of(self.session.piece, owners[at])))

    def mark_by(self, by: int) -> None:
        """Move the mark along the links of the chain under the cursor."""
        spot = self.session.spot
        count = self.numbered_at(spot)
        if spot is not None and count is not None:
            central = spot.path == (-1,)
            top = count // 2 if central else count
            low = 0 if central and count % 2 else 1
            self.session.go(spot, min(max(self.session.cursor.mark + by, low), top))

    def count_by(self, by: int) -> None:
        """Change the count under the cursor."""
        spot = self.session.spot
        if spot is not None:
            self.session.attempt(lambda: self._counted(spot, by))

    def _counted(self, spot: Spot, by: int) -> Edited:
        return set_count(self.session.piece, spot, count_at(self.session.piece, spot)[0] + by)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Enter takes what is written, Escape leaves it; neither reaches the rule."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._take_entry()
                return True
            if event.key() == Qt.Key.Key_Escape:
                self.close_entry()
                return True
        return False

    def start_entry(self, text: str) -> None:
        """Let the maker write a count or a length onto what the cursor is on."""
        box = self._cursor_box()
        if box is None:
            return
        self.entry.setText(text)
        self.entry.setFixedWidth(130)
        x = min(max(box.left(), names_width()), self.width() - 140)
        y = min(box.bottom() + 4, self.height() - 32)
        self.entry.move(round(x), round(max(y, ruler_height())))
        self.entry.show()
        self.entry.setFocus()
        self.entry.deselect()

    def close_entry(self) -> None:
        self.entry.hide()
        self.setFocus()

    def _take_entry(self) -> None:
        spot = self.session.spot
        text = self.entry.text()
        if spot is None:
            return
        if self.session.attempt(lambda: self._written(spot, text)):
            self.close_entry()
        else:
            self.entry.selectAll()  # what is typed next takes its place

    def _written(self, spot: Spot, text: str) -> Edited:
        """A plain number on chain is a length unless links are said; elsewhere it is a count."""
        item = self.numbered_at(spot)
        amount = parse_length(text, self.session.unit)
        if isinstance(amount, Links):
            return set_count(self.session.piece, spot, amount.count)
        if item is None:
            written = amount_at(text.strip())
            if written is None or written[0].kind != "plain":
                raise DomainError(f"“{text}”: only chain takes a length; write a whole number")
            return set_count(self.session.piece, spot, written[0].whole)
        return set_length(self.session.piece, spot, amount.mm)

    # --- mouse --------------------------------------------------------------------------------

    def laid_under(self, place: QPointF) -> Laid | None:
        at = (place - self.origin()) * (1 / self.scale())
        for laid in sorted(self.rule.laid, key=lambda one: not one.hangs):
            left, top, right, bottom = laid.box
            if left - 0.5 <= at.x() <= right + 0.5 and top - 0.5 <= at.y() <= bottom + 0.5:
                return laid
        return None

    def edge_under(self, place: QPointF) -> Edge | None:
        """The outer end of a chain that a point is on: it can be drawn to another count."""
        origin, scale = self.origin(), self.scale()
        for laid in self.rule.laid:
            thing = self.session.assembly.things.get(laid.member.ref)  # what is shown may be older
            if not isinstance(thing, Chain) or not thing.pitches_mm or laid.member.made_in:
                continue
            left, top, right, bottom = laid.box
            end = origin + QPointF(*((left + right) / 2, bottom) if laid.hangs else (
                right, (top + bottom) / 2)) * scale  # fmt: skip
            if abs(end.x() - place.x()) < EDGE_PX and abs(end.y() - place.y()) < EDGE_PX:
                spot = spot_of(self.session.assembly, laid.member.run, laid.member.item)
                if spot is not None and spot.path:
                    pitch = sum(thing.pitches_mm) / len(thing.pitches_mm)
                    return Edge(spot, laid.member.links, pitch, hangs=laid.hangs, at=place)
        return None

    def draw_to(self, place: QPointF) -> None:
        """Show the count the drawn end stands at; whole links only, by two across the fold."""
        edge = self.edge
        if edge is None:
            return
        moved = place - edge.at
        steps = round((moved.y() if edge.hangs else moved.x()) / self.scale() / edge.pitch_mm)
        by = 2 * steps if edge.spot.path == (-1,) else steps
        self.edge = replace(edge, count=max(edge.links + by, 1))
        length = self.session.length(self.edge.count * edge.pitch_mm)
        self.session.said.emit(f"{edge.spot.owner}: {format_links(self.edge.count)}, {length}.")

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.edge is not None:
            self.draw_to(event.position())
            return
        over = self.edge_under(event.position())
        shape = Qt.CursorShape.ArrowCursor
        if over is not None:
            shape = Qt.CursorShape.SizeVerCursor if over.hangs else Qt.CursorShape.SizeHorCursor
        self.setCursor(shape)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """One undo step, however far it was drawn."""
        edge, self.edge = self.edge, None
        if edge is not None and edge.count and edge.count != edge.links:
            self.session.attempt(lambda: set_count(self.session.piece, edge.spot, edge.count))

    def _link_under(self, laid: Laid, place: QPointF) -> int:
        """Which link or bead of a member lies nearest to a point, from 1 along it."""
        at = (place - self.origin()) * (1 / self.scale())
        member = laid.member
        if not member.links:
            return 1
        numbers = range(1, member.links + 1)
        known = [n for n in numbers if (member.id, n) in self.rule.at]

        def away(number: int) -> float:
            x, y = self.rule.at[(member.id, number)]
            return abs(x - at.x()) + abs(y - at.y())

        return min(known, key=away, default=1)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.asks_place and event.button() == Qt.MouseButton.LeftButton:
            laid = self.laid_under(event.position())
            if laid is not None and laid.member.id not in self._fresh:
                self.pointed.emit(laid.member, self._link_under(laid, event.position()))
            return
        self.setFocus()
        self.edge = self.edge_under(event.position())
        if self.edge is not None:
            self.session.go(self.edge.spot)
            return
        laid = self.laid_under(event.position())
        if laid is not None:
            extend = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            spot = spot_of(self.session.assembly, laid.member.run, laid.member.item)
            self.session.go(spot, extend=extend)

    def focusInEvent(self, event: object) -> None:
        self.update()

    def focusOutEvent(self, event: object) -> None:
        self.update()
