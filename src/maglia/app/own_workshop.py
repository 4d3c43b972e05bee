"""Opening the workshop file once the window stands, and the way on where it cannot be opened."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QWidget

from maglia.app.banner import Banner
from maglia.app.session.session import Session
from maglia.core.values.record import DomainError


def open_own(
    session: Session, path: Path, banner: Banner | None = None, *, demo: bool = False
) -> None:
    """Open a workshop; the demo's is filled when it is new. Without it the window works on, and it
    is said why; a broken one has its last backup offered."""
    from maglia.files.workshop.store import Damaged, open_workshop

    try:
        store = open_workshop(path)
        if demo and not store.read_only:
            from maglia.demo import fill

            fill(store)
        session.workshop.open(store)
    except DomainError as fault:
        session.said.emit(f"New parts are not kept: {fault}.")
        if banner is not None and isinstance(fault, Damaged):
            _offer_backup(session, path, banner, str(fault))


def go_back(session: Session, window: QWidget | None) -> None:
    """The workshop as it was on another day: which is asked, and what is there now set aside."""
    from maglia.files.workshop.backups import backups_of, day_of, weekday_of

    workshop = session.workshop
    store = workshop.store
    if store is None or store.read_only:
        raise DomainError("no workshop is open that could be written to")
    backups = backups_of(store.path)[::-1]
    days = [f"{day_of(one)}, {weekday_of(one)}" + _before(one) for one in backups]
    if not days:
        raise DomainError("there is no backup yet: one is made each day the workshop is opened")
    words = (
        "All that was kept since then in tray, stock, builds and Log goes out of sight;\n"
        "it stays in a file beside. The workshop as it was on:"
    )
    day = chosen_of(window, words, days)
    if day is None:
        return
    chosen = backups[days.index(day)]
    workshop.wait_for_others()
    workshop.close()
    _put_back(session, store.path, chosen)
    if workshop.store is None:  # refused: nothing was changed
        open_own(session, store.path)


def chosen_of(window: QWidget | None, words: str, days: list[str]) -> str | None:
    """The day that is chosen, None if none is."""
    from PySide6.QtWidgets import QInputDialog

    ask = QInputDialog(window)
    ask.setWindowTitle("The workshop as it was")
    ask.setOption(QInputDialog.InputDialogOption.UseListViewForComboBoxItems)
    ask.setLabelText(words)
    ask.setComboBoxItems(days)
    ask.setTextValue(days[0])
    ask.setOkButtonText("Go back to it")
    ask.setCancelButtonText("Stay")
    wanted = ask.exec()
    ask.deleteLater()
    return ask.textValue() if wanted else None


def _before(backup: Path) -> str:
    """The word for one that was made before the file was brought to a newer version."""
    _, before, number = backup.stem.partition("-before-")
    return f", before version {number}" if before else ""


def _offer_backup(session: Session, path: Path, banner: Banner, fault: str) -> None:
    """Look at the last backup, put it in the place of the broken file, or go on without."""
    from maglia.files.workshop.backups import backups_of

    backups = backups_of(path)
    if not backups:
        return
    last = backups[-1]
    day = last.stem.partition(".backup-")[2][:10]
    banner.ask(
        f"{fault[:1].upper()}{fault[1:]}.",
        (f"Look at the backup of {day}", partial(_look_at, session, last)),
        ("Put it in its place", partial(_put_back, session, path, last)),
        *(() if path.exists() else (("Begin an empty one", partial(_begin, session, path)),)),
        ("Go on without", lambda: None),
    )


def _look_at(session: Session, backup: Path) -> None:
    from maglia.files.workshop.store import open_workshop

    try:
        session.workshop.open(open_workshop(backup, to_read=True))
        session.said.emit(f"{backup.name}, to read only: what you enter is not kept.")
    except DomainError as fault:
        session.said.emit(f"The backup cannot be read either: {fault}.")


def _put_back(session: Session, path: Path, backup: Path) -> None:
    from maglia.files.workshop.going_back import put_back
    from maglia.files.workshop.store import open_workshop

    try:
        aside = put_back(path, backup)
        session.workshop.open(open_workshop(path))
        was = f"; what was there is {aside.name} beside it" if aside else ""
        session.said.emit(f"{backup.name} is your workshop now{was}.")
    except DomainError as fault:
        session.said.emit(f"Not done: {fault}.")


def _begin(session: Session, path: Path) -> None:
    from maglia.files.workshop.store import open_workshop

    try:
        session.workshop.open(open_workshop(path, anew=True))
        session.said.emit("An empty workshop is begun; the backups stay where they are.")
    except DomainError as fault:
        session.said.emit(f"Not done: {fault}.")
