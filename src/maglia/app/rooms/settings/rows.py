"""What can be set: data. One row for everything, whoever keeps it: the settings of this machine,
the rules of the workshop, the habits a build is begun with.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from typing import Any

from maglia.app.desk import Desk
from maglia.app.settings import STAND_IN
from maglia.core.joining.ways import CHOICES, USUAL, WORDS, with_habit
from maglia.core.values.measures import amount_at
from maglia.core.values.record import DomainError, Value
from maglia.core.values.rules import DEFAULTS, RULES, Rule, with_currency, with_rule

UNITS = {
    "mm": "mm", "g": "g", "minutes": "min", "share": "%", "times": "×", "pieces": "", "money": "",
}  # fmt: skip
CUSTOM, GUESS, YOURS = "trade custom", "a first guess, an estimate", ""
TEXT_SIZES = (100, 110, 125, 150, 175, 200)
WIRE_UNITS = {"": "mm alone", "AWG": "mm and AWG", "SWG": "mm and SWG"}


class Row(Value, frozen=True):
    """One thing that can be set: its group and words, why it is so, on what ground; how it is read
    and written; what is usual; and either what it is chosen from (value: words) or how a figure is
    shown and read."""

    id: str
    group: str
    words: str
    reason: str
    ground: str
    usual: Any
    read: Callable[[], Any]
    write: Callable[[Any], None]
    choices: dict[Any, str] | None = None
    unit: str = ""
    shown: Callable[[Any], str] = str
    parsed: Callable[[str], Any] = str

    def said(self, value: Any) -> str:
        """A value in words."""
        if self.choices is not None:
            return self.choices.get(value, str(value))
        return f"{self.shown(value)} {self.unit}".strip() or "none"

    @property
    def hay(self) -> str:
        """What it is narrowed by."""
        chosen = " ".join(self.choices.values()) if self.choices else ""
        return f" {self.group} {self.words} {self.reason} {self.ground} {chosen} ".lower()


def rows_of(desk: Desk) -> tuple[Row, ...]:
    """Every row in the order of the page."""
    return (
        *_shown(desk), *_work(desk), *_instruments(desk),
        *(_rule(desk, rule) for rule in RULES), _currency(desk),
    )  # fmt: skip


def _setting(desk: Desk, key: str, group: str, words: str, reason: str,
             choices: dict[Any, str] | None, **more: Any) -> Row:  # fmt: skip
    return Row(
        id=key, group=group, words=words, reason=reason, ground=more.pop("ground", YOURS),
        usual=more.pop("usual"), read=lambda: desk.settings[key],
        write=partial(desk.put, key), choices=choices, **more,
    )  # fmt: skip


def _shown(desk: Desk) -> Iterator[Row]:
    yield _setting(desk, "theme", "Show", "Mat", "light for gunmetal, dark for the evening",
                   {"": "as the desktop", "felt": "felt, light", "slate": "slate, dark"},
                   usual="")  # fmt: skip
    yield _setting(desk, "text", "Show", "Text size", "to be read from where you sit",
                   {size: f"{size} %" for size in TEXT_SIZES}, usual=100)  # fmt: skip
    yield _setting(desk, "motion", "Show", "Settling as motion",
                   "the piece is seen coming to rest; off, it is there at once",
                   {True: "on", False: "off"}, usual=True)  # fmt: skip
    yield _setting(desk, "unit", "Show", "Lengths in", "you may write any unit at any time",
                   {"mm": "mm", "cm": "cm", "in": "inches"}, usual="mm")  # fmt: skip
    yield _setting(desk, "wire_unit", "Show", "Wire in",
                   "a gauge is never said without its system; the two differ", WIRE_UNITS,
                   usual="", ground="published standard: ASTM B258, BS 3737")  # fmt: skip
    yield _setting(desk, "px_per_mm", "Show", "Pixels a millimetre of this screen takes",
                   "for rows at true size; 0: as the screen says itself. Hold a ruler against one",
                   None, usual=0.0, shown=lambda v: f"{v:g}",
                   parsed=partial(_figure, least=0.0, most=100.0))  # fmt: skip


def _work(desk: Desk) -> Iterator[Row]:
    yield _setting(desk, "photographs", "Work", "Photographs",
                   "where they lie they may be moved away; copies take room beside the workshop",
                   {"linked": "stay where they lie", "copied": "are copied"},
                   usual="linked")  # fmt: skip
    for name, words in WORDS.items():
        glue = name not in CHOICES
        yield Row(
            id=f"working {name}",
            group="Work",
            words=words,
            reason="as its own leaflet says: that comes first" if glue
            else "how a new build is planned; F and H change one that is begun",
            ground="the glue's own leaflet" if glue else "two schools, both good",
            usual=getattr(USUAL, name),
            read=partial(_habit, desk, name),
            write=partial(_set_habit, desk, name),
            choices=CHOICES.get(name),
            shown=lambda v: f"{v:g}",
            parsed=partial(_figure, least=0.0, most=100_000.0) if glue else str,
            unit="min" if glue else "",
        )  # fmt: skip


def _habit(desk: Desk, name: str) -> Any:
    kept = desk.settings["working"].get(name)
    usual = getattr(USUAL, name)
    return usual if kept is None else float(kept) if name not in CHOICES else kept


def _set_habit(desk: Desk, name: str, value: Any) -> None:
    said = f"{value:g}" if name not in CHOICES else value
    with_habit(USUAL, f"{name}={said}")  # refuses what is none
    desk.put("working", {**desk.settings["working"], name: said})


def _instruments(desk: Desk) -> Iterator[Row]:
    for kind, words in (("caliper", "Caliper"), ("scale", "Scale")):

        def kept(kind: str = kind) -> dict[str, object]:
            own = desk.settings["instruments"].get(kind)
            return own if isinstance(own, dict) else {}

        def read(kept: Callable[[], dict[str, object]] = kept) -> str:
            return str(kept().get("place", STAND_IN))

        def write(
            place: str, kind: str = kind, kept: Callable[[], dict[str, object]] = kept
        ) -> None:
            others = desk.settings["instruments"]
            desk.put("instruments", {**others, kind: {**kept(), "place": place}})

        yield Row(
            id=kind, group="Instruments", words=f"{words}, plugged in at",
            reason="a serial line, such as /dev/ttyUSB0. How it speaks is set in the Tray (F7, F8)",
            ground=YOURS, usual=STAND_IN, read=read, write=write, parsed=str.strip,
        )  # fmt: skip


def _rule(desk: Desk, rule: Rule) -> Row:
    workshop = desk.session.workshop

    def write(value: float) -> None:
        workshop.set_rules(with_rule(workshop.rules, rule.field, value))

    return Row(
        id=rule.field,
        group=rule.group,
        words=rule.words,
        reason=rule.reason,
        ground=GUESS if rule.group == "Minutes" else YOURS if rule.group == "Price" else CUSTOM,
        usual=DEFAULTS[rule.field],
        read=lambda: getattr(workshop.rules, rule.field),
        write=write,
        unit=UNITS[rule.unit],
        shown=partial(_rule_shown, rule),
        parsed=partial(_rule_value, rule),
    )


def _currency(desk: Desk) -> Row:
    workshop = desk.session.workshop
    return Row(
        id="currency", group="Price", words="Currency",
        reason="written after every sum; nothing is converted", ground=YOURS, usual="",
        read=lambda: workshop.rules.currency,
        write=lambda text: workshop.set_rules(with_currency(workshop.rules, text)),
    )  # fmt: skip


def _rule_shown(rule: Rule, value: float) -> str:
    return f"{value * 100:g}" if rule.unit == "share" else f"{value:g}"


def _rule_value(rule: Rule, text: str) -> float:
    if rule.unit == "mm":
        found = amount_at(text, 0)
        if found is not None and found[1] == len(text):
            return found[0].mm("mm")
    plain = _figure(text.rstrip("%× "))
    return plain / 100 if rule.unit == "share" else plain


def _figure(text: str, least: float | None = None, most: float | None = None) -> float:
    try:
        value = float(text.strip().replace(",", "."))
    except ValueError:
        raise DomainError(f"“{text}” is no figure") from None
    if (least is not None and not value >= least) or (most is not None and not value <= most):
        raise DomainError(f"it is from {least:g} to {most:g}, not {value:g}")
    return value
