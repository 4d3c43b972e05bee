"""The instruments below the sheet: what each shows, drawn small, its keys, and the key that takes a
reading into the figure that has the focus.
"""

from __future__ import annotations

import zlib
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, QSize, QSocketNotifier, Qt, QTimer
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QApplication,
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from maglia.app.own_keys import Choice
from maglia.app.painting.whole import whole_box
from maglia.app.plain_text import Label
from maglia.app.settings import STAND_IN
from maglia.app.size_box import SizeBox
from maglia.app.theme import Theme, font
from maglia.core.parts.parts import Part, part_mass_g
from maglia.core.values.record import DomainError
from maglia.devices.port import Port, ports
from maglia.devices.readings import Reading, Settings, Steady, read_line
from maglia.devices.stand_ins.instrument import Caliper, Instrument, Scale
from maglia.devices.stand_ins.pseudo_line import PseudoLine

if TYPE_CHECKING:
    from maglia.app.rooms.tray.tray import TrayRoom

TICK_MS = 100
NOTHING = "nothing connected"
BAUDS = ("1200", "2400", "4800", "9600", "19200", "38400", "57600", "115200")


class Connected(QWidget):
    """One instrument: where it is plugged in, what it says, and whether it has come to rest. `kind`
    is caliper or scale."""

    def __init__(self, kind: str, panel: Instruments) -> None:
        super().__init__()
        self.kind, self.panel = kind, panel
        self.theme = panel.theme
        self.settings = _kept(panel, kind)
        self.port: Port | None = None
        self.stand_in: PseudoLine | None = None
        self.reading: Reading | None = None
        self.words = NOTHING
        self.steady = Steady()
        self._bell: QSocketNotifier | None = None
        self.picture = _Picture(self)
        self.plug = Choice()
        self.plug.setObjectName("size")
        self.plug.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.plug.setMinimumContentsLength(10)
        self.plug.setAccessibleName(f"Where the {kind} is plugged in")
        self.plug.activated.connect(self._plugged)
        self.keys = QGridLayout()
        self.keys.setSpacing(2)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self.picture)
        column.addWidget(self.plug)
        column.addLayout(self.keys)
        self._own_keys()
        self.list_ports()

    def _key(self, words: str, do: object, tip: str) -> QToolButton:
        made = QToolButton()
        made.setText(words)
        made.setObjectName("small")
        made.setToolTip(tip)
        made.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        made.clicked.connect(do)
        at = self.keys.count()
        self.keys.addWidget(made, at // 4, at % 4)
        return made

    def _own_keys(self) -> None:
        """Keys of the stand-in; a true instrument has its own."""
        self.own = [
            self._key("zero", lambda: self._on_stand_in("zero"), "Zero, or tare"),
            self._key("unit", lambda: self._on_stand_in("next_unit"), "Next unit"),
            self._key("hold", lambda: self._on_stand_in("hold"), "Hold what is shown"),
        ]
        if self.kind == "scale":
            for words, count in (("1", 1), ("10", 10), ("bag", 0), ("empty", -1)):
                tip = {1: "One on the pan", 10: "Ten on the pan", 0: "The whole bag on the pan"}
                self.own.append(self._key(words, partial(self.panel.put_on, count),
                                          tip.get(count, "Nothing on the pan")))  # fmt: skip
        self.fault = Choice()
        self.fault.setObjectName("size")
        self.fault.addItems(["sound", "battery low", "garbled", "too much", "unplugged"])
        self.fault.setAccessibleName(f"What is the matter with the stand-in {self.kind}")
        self.fault.setToolTip("What is the matter with the stand-in")
        self.fault.activated.connect(self._fault)
        column = self.layout()
        assert column is not None
        column.addWidget(self.fault)

    def list_ports(self) -> None:
        """The ports that are there now."""
        self.plug.clear()
        self.plug.addItem(NOTHING, "")
        self.plug.addItem(f"{STAND_IN} {self.kind}", STAND_IN)
        for found in ports():
            self.plug.addItem(found.words, found.name)

    # --- plugging in --------------------------------------------------------------------------

    def _plugged(self, row: int) -> None:
        self.connect_to(str(self.plug.itemData(row)))

    def connect_to(self, place: str) -> None:
        """Plug into a port, the stand-in, or nothing."""
        self.disconnect_now()
        self.plug.setCurrentIndex(max(self.plug.findData(place), 0))
        if not place:
            self._show()
            return
        try:
            if place == STAND_IN:
                made: Instrument = Caliper() if self.kind == "caliper" else Scale()
                self.stand_in = PseudoLine(made)
                place = self.stand_in.name
            self.port = Port(place, self.settings)
        except (DomainError, OSError) as fault:
            self.disconnect_now()
            self.words = str(fault)
            self.panel.room.desk.say(f"Not done: {fault}.")
            self._show()
            return
        self.words = "waiting"
        self._bell = QSocketNotifier(self.port.fileno(), QSocketNotifier.Type.Read, self)
        self._bell.activated.connect(self.listen)
        self._show()

    def disconnect_now(self) -> None:
        if self._bell is not None:
            self._bell.setEnabled(False)
            self._bell.deleteLater()
        if self.port is not None:
            self.port.close()
        if self.stand_in is not None:
            self.stand_in.unplug()
        self._bell, self.port, self.stand_in, self.reading = None, None, None, None
        self.words = NOTHING
        self.steady.forget()
        self.fault.setCurrentIndex(0)

    def listen(self) -> None:
        """Lines have come."""
        if self.port is None:
            return
        try:
            lines = self.port.take()
        except DomainError:
            self.disconnect_now()
            self.plug.setCurrentIndex(0)
            self.words = "unplugged"
            self.panel.room.desk.say(
                f"The {self.kind} is unplugged: plug it in again, or choose it."
            )
            self._show()
            return
        for line in lines:
            try:
                self.reading = read_line(line, self.settings)
            except DomainError as fault:
                self.words, self.reading = str(fault), None
                self.steady.forget()
                continue
            self.words = ""
            self.steady.add(self.reading)
            if self.settings.each_line:
                self.panel.take_from(self)
        self._show()

    def speak(self) -> None:
        """Time passes for the stand-in."""
        if self.stand_in is not None:
            self.stand_in.speak(TICK_MS / 1000)

    def _on_stand_in(self, key: str) -> None:
        if self.stand_in is not None:
            getattr(self.stand_in.instrument, key)()

    def _fault(self, row: int) -> None:
        if self.stand_in is None:
            return
        made = self.stand_in.instrument
        made.battery_low, made.garbles = row == 1, row == 2
        if row == 3:
            made.measure(made.greatest * 2)
        elif row == 0:
            self.panel.close_on_sheet()
        if row == 4:
            self.stand_in.unplug()

    # --- showing ------------------------------------------------------------------------------

    @property
    def figure(self) -> str:
        if self.reading is None:
            return self.words
        places = 3 if self.reading.step < 0.005 else 2
        return f"{self.reading.value:.{places}f} {self.reading.unit}"

    def _show(self) -> None:
        is_here = self.stand_in is not None
        for key in self.own:
            key.setVisible(is_here)
        self.fault.setVisible(is_here)
        self.picture.setAccessibleName(f"{self.kind}: {self.figure}")
        self.picture.update()


class _Picture(QWidget):
    """A small drawn instrument with what it shows."""

    def __init__(self, own: Connected) -> None:
        super().__init__()
        self.own = own
        self.setFixedHeight(74)

    def sizeHint(self) -> QSize:
        return QSize(170, 74)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, room = self.own.theme, QRectF(self.rect()).adjusted(1, 1, -1, -1)
        painter.setPen(QPen(theme.colour("ink", 150), 1.4))
        if self.own.kind == "caliper":
            self._caliper(painter, room, theme)
        else:
            self._scale(painter, room, theme)

    def _display(self, painter: QPainter, box: QRectF, theme: Theme) -> None:
        own = self.own
        painter.setBrush(theme.colour("board"))
        painter.drawRoundedRect(box, 3, 3)
        resting = own.reading is not None and own.steady.at_rest
        painter.setPen(theme.colour("ink" if own.reading is not None else "attention"))
        painter.setFont(font(15 if own.reading is not None else 11, bold=resting))
        painter.drawText(
            box, Qt.AlignmentFlag.AlignCenter.value | Qt.TextFlag.TextWordWrap.value, own.figure
        )

    def _caliper(self, painter: QPainter, room: QRectF, theme: Theme) -> None:
        """The beam along the top, fixed jaw left, the slider with the display on it."""
        value = self.own.reading.value if self.own.reading else 0.0
        slide = min(max(value, 0.0), 60.0) / 60 * (room.width() - 150)
        painter.setBrush(theme.colour("paper_edge"))
        painter.drawRect(QRectF(room.left(), room.top() + 8, room.width(), 8))
        for x in (room.left() + 6, room.left() + 16 + slide):
            painter.drawRect(QRectF(x, room.top() + 8, 9, 58))
        self._display(painter, QRectF(room.left() + 32 + slide, room.top() + 2, 112, 40), theme)

    def _scale(self, painter: QPainter, room: QRectF, theme: Theme) -> None:
        """The pan above, the display in the body."""
        painter.setBrush(theme.colour("paper_edge"))
        painter.drawRoundedRect(QRectF(room.center().x() - 60, room.top() + 4, 120, 7), 3, 3)
        painter.drawRect(QRectF(room.center().x() - 5, room.top() + 11, 10, 8))
        body = QRectF(room.center().x() - 80, room.top() + 19, 160, 53)
        painter.drawRoundedRect(body, 5, 5)
        self._display(painter, body.adjusted(14, 8, -14, -8), theme)


class Instruments(QWidget):
    """Caliper and scale side by side."""

    def __init__(self, room: TrayRoom) -> None:
        super().__init__()
        self.room, self.theme = room, room.desk.theme
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.caliper, self.scale = Connected("caliper", self), Connected("scale", self)
        self.last_box: SizeBox | None = None
        head = QHBoxLayout()
        heading = Label("INSTRUMENTS")
        heading.setObjectName("heading")
        self.take_key = QPushButton("Take the reading  F8")
        self.take_key.clicked.connect(lambda: self.room.desk.attempt(self.take))
        self.setup = QPushButton("Settings")
        self.setup.clicked.connect(self._settings)
        head.addWidget(heading, 1)
        head.addWidget(self.take_key)
        head.addWidget(self.setup)
        row = QHBoxLayout()
        row.setSpacing(14)
        row.addWidget(self.caliper, 1)
        row.addWidget(self.scale, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 6, 14, 8)
        column.addLayout(head)
        column.addLayout(row)
        self.page = self._settings_page()
        column.addWidget(self.page)
        self.page.hide()
        self.timer = QTimer(self)
        self.timer.setInterval(TICK_MS)
        self.timer.timeout.connect(self.tick)
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        app.focusChanged.connect(self._on_focus)
        self.hide()

    def open(self) -> None:
        """Show them, or put them away. What was plugged in last is plugged in again."""
        if self.isVisible():
            self.put_away()
            return
        self.show()
        for own in (self.caliper, self.scale):
            own.list_ports()
            own.connect_to(str(self._kept().get(own.kind, {}).get("place", STAND_IN)))
        self.close_on_sheet()
        self.timer.start()

    def put_away(self) -> None:
        self.timer.stop()
        for own in (self.caliper, self.scale):
            self._keep(own.kind, place=str(own.plug.currentData() or ""))
            own.disconnect_now()
        self.hide()

    def _kept(self) -> dict[str, dict[str, object]]:
        kept = self.room.desk.settings["instruments"]
        return {k: v for k, v in kept.items() if isinstance(v, dict)}

    def _keep(self, kind: str, **values: object) -> None:
        kept = self._kept()
        kept[kind] = {**kept.get(kind, {}), **values}
        self.room.desk.settings["instruments"] = kept

    def tick(self) -> None:
        for own in (self.caliper, self.scale):
            own.speak()

    # --- readings -----------------------------------------------------------------------------

    def _on_focus(self, _: QWidget | None, now: QWidget | None) -> None:
        if isinstance(now, SizeBox):
            self.last_box = now
            self.close_on_sheet()

    def take(self) -> None:
        """Take what the instrument that fits shows into the figure that has the focus."""
        if not self.isVisible():
            self.open()
            raise DomainError("the instruments are open now: F8 again takes the reading")
        box = self._box()
        self._put(box, self.scale if _is_mass(box) else self.caliper)

    def take_from(self, own: Connected) -> None:
        """An instrument's own data key was pressed."""
        if isinstance(QApplication.focusWidget(), SizeBox):
            self.room.desk.attempt(self._put, self._box(), own)

    def _box(self) -> SizeBox:
        focus = QApplication.focusWidget()
        box = focus if isinstance(focus, SizeBox) else None
        if box is None:
            raise DomainError("go to the figure it is to be written into first")
        return box

    def _put(self, box: SizeBox, own: Connected) -> None:
        reading = own.reading
        if reading is None:
            raise DomainError(f"the {own.kind} shows no figure: {own.words}")
        if not own.steady.at_rest and not own.settings.each_line:
            raise DomainError(f"the {own.kind} is still settling")
        if (reading.unit == "g") is not _is_mass(box):
            raise DomainError(f"a {own.kind} does not measure that")
        if reading.value <= 0:
            raise DomainError(f"the {own.kind} shows {own.figure}: there is nothing to measure")
        text = own.figure
        if box is self.room.sheet.lies.line:
            before = box.text().rstrip()
            box.setText(f"{before} {text}".strip() if before else f"bag {text}")
            box.setModified(True)
            return
        box.setText(text)
        box.setModified(True)
        if box.commit():
            step = f"{reading.step / 2:.3g}"
            self.room.desk.say(f"{box.name}: {text} ± {step}, from the {own.kind}.")

    def close_on_sheet(self) -> None:
        """The stand-in caliper closes on the size that has the focus."""
        part, stand_in = self.room.sheet.thing, self.caliper.stand_in
        if stand_in is None or not isinstance(part, Part):
            return
        field = next((f for f, box in self.room.sheet.boxes.items() if box is self.last_box), None)
        stand_in.instrument.measure(true_mm(part, field, self.room))

    def put_on(self, count: int) -> None:
        """So many of the part on the stand-in's pan; 0 the whole bag, −1 nothing."""
        part, stand_in = self.room.sheet.thing, self.scale.stand_in
        if stand_in is None or not isinstance(part, Part):
            return
        bag = self.room.workshop.lying_of(part.id).bag
        each = part_mass_g(part) or 0.05
        stand_in.instrument.measure(each * (bag if count == 0 else max(count, 0)))

    # --- settings -----------------------------------------------------------------------------

    def _settings_page(self) -> QWidget:
        page = QWidget()
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 4, 0, 0)
        for k, own in enumerate((self.caliper, self.scale)):
            baud = Choice()
            baud.addItems(BAUDS)
            baud.setCurrentText(str(own.settings.baud))
            baud.setAccessibleName(f"Bauds of the {own.kind}")
            unit = Choice()
            unit.addItems(["mm", "in"] if own.kind == "caliper" else ["g", "ct", "oz"])
            unit.setCurrentText(own.settings.unit)
            unit.setAccessibleName(f"Unit of a line of the {own.kind} that says none")
            each = QCheckBox("each line is a reading")
            each.setChecked(own.settings.each_line)
            for signal in (baud.activated, unit.activated, each.toggled):
                signal.connect(partial(self._set, own, baud, unit, each))
            grid.addWidget(Label(own.kind), k, 0)
            for column, widget in enumerate((baud, unit, each), 1):
                grid.addWidget(widget, k, column)
        return page

    def _settings(self) -> None:
        self.page.setVisible(not self.page.isVisible())

    def _set(self, own: Connected, baud: Choice, unit: Choice, each: QCheckBox, *_: object) -> None:
        own.settings = Settings(int(baud.currentText()), unit.currentText(), each.isChecked())
        self._keep(own.kind, baud=own.settings.baud, unit=own.settings.unit,
                   each_line=own.settings.each_line)  # fmt: skip
        own.connect_to(str(own.plug.currentData() or ""))

    def set_theme(self, theme: Theme) -> None:
        self.theme = self.caliper.theme = self.scale.theme = theme
        self.update()


def _kept(panel: Instruments, kind: str) -> Settings:
    found = panel.room.desk.settings["instruments"].get(kind, {})
    usual = Settings(unit="mm" if kind == "caliper" else "g")
    try:
        return Settings(int(found.get("baud", usual.baud)), str(found.get("unit", usual.unit)),
                        bool(found.get("each_line", False)))  # fmt: skip
    except (TypeError, ValueError, AttributeError):
        return usual


def _is_mass(box: SizeBox) -> bool:
    return box.name.startswith("g ") or box.name == "what changed"


def true_mm(part: Part, field: str | None, room: TrayRoom) -> float:
    """What the stand-in's jaws meet: the known size, else what is drawn, a little off."""
    value = getattr(part, field, None) if field else None
    if field == "outer_mm":
        value = whole_box(part, room.things).width()
    if isinstance(value, tuple):
        value = value[0] if value and isinstance(value[0], float) else None
    if isinstance(value, int | float):
        return float(value)
    box = whole_box(part, room.things)
    usual = {"wire_mm": 0.8, "hole_mm": 1.0, "loop_mm": 2.0, "thickness_mm": 1.0,
             "jaw_wire_mm": 1.1, "gape_mm": 1.7, "eye_mm": 1.8, "head_mm": 1.8, "hole_wide": 1.6,
             "inner_mm": 4.0}  # fmt: skip
    across = box.width() if field in ("length_mm", "span_mm", "height_mm") else box.height()
    guess = usual.get(field or "", across)
    return round(guess * (1 + (zlib.crc32(f"{part.id}{field}".encode()) % 160 - 80) / 1000), 2)
