"""Opening the workshop file once the window stands, and the way on where it cannot be opened."""

from __future__ import annotations

from functools import partial
from pathlib import Path

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


def _offer_backup(session: Session, path: Path, banner: Banner, fault: str) -> None:
    """Look at the last backup, put it in the place of the broken file, or go on without."""
    from maglia.files.workshop.store import backups_of

    backups = backups_of(path)
    if not backups:
        return
    last = backups[-1]
    day = last.stem.partition(".backup-")[2][:10]
    banner.ask(
        f"{fault[:1].upper()}{fault[1:]}.",
        (f"Look at the backup of {day}", partial(_look_at, session, last)),
        ("Put it in its place", partial(_put_back, session, path, last)),
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
    from maglia.files.workshop.store import open_workshop, put_back

    try:
        put_back(path, backup)
        session.workshop.open(open_workshop(path))
        session.said.emit(f"{backup.name} is your workshop now; the broken file is set aside.")
    except DomainError as fault:
        session.said.emit(f"Not done: {fault}.")
