"""`maglia log`: what was made, how it came out, and what that says."""

from __future__ import annotations

import contextlib
import json
from pathlib import Path
from typing import TYPE_CHECKING

import click

if TYPE_CHECKING:
    from maglia.core.log.concerns import Concern
    from maglia.core.log.text import Kept
    from maglia.files.workshop.store import Workshop


@click.command()
@click.argument("words", nargs=-1)
@click.option("--workshop", type=click.Path(path_type=Path), help="A workshop FILE, else your own.")
@click.option("--demo", is_flag=True, help="The made-up workshop's log.")
@click.option("--json", "as_data", is_flag=True, help="Write JSON (docs/log.md).")
@click.option("--csv", "table", type=click.Path(path_type=Path), help="Write them as a table.")
@click.option("--unit", type=click.Choice(["mm", "cm", "in"]), default="mm", show_default=True,
              help="Of the sheet.")  # fmt: skip
@click.option("--pdf", "sheet", type=click.Path(path_type=Path), help="Write them as a sheet.")
def log(
    words: tuple[str, ...], workshop: Path | None, demo: bool, as_data: bool, table: Path | None,
    sheet: Path | None, unit: str,
) -> None:  # fmt: skip
    """What was made, measured and learned; with WORDS only builds that hold them all."""
    from maglia.core.log import text
    from maglia.files.disk import write_table

    kept, concerns = _read(workshop, " ".join(words), demo=demo)
    if table is not None:
        write_table(table, text.rows_of(kept))
    if sheet is not None:
        from maglia.app.log_sheet import save
        from maglia.app.offscreen import offscreen

        with offscreen():
            save(kept, concerns, sheet, unit)  # type: ignore[arg-type]
    if as_data:
        click.echo(json.dumps(text.as_json(kept, concerns), indent=1, ensure_ascii=False))
    elif table is None and sheet is None:
        click.echo(text.as_text(kept, concerns), nl=False)


def _read(
    path: Path | None, words: str, *, demo: bool
) -> tuple[tuple[Kept, ...], tuple[Concern, ...]]:
    import tempfile

    from maglia.files.workshop.log_reading import kept_builds, what_it_says
    from maglia.files.workshop.place import workshop_path
    from maglia.files.workshop.store import open_workshop

    own = path or workshop_path()
    with contextlib.ExitStack() as stack:
        if demo:
            from maglia.demo import fill

            folder = stack.enter_context(tempfile.TemporaryDirectory())
            held: Workshop = open_workshop(Path(folder) / "demo.sqlite")
            stack.callback(held.close)
            fill(held)
        elif path is None and not own.exists():
            return (), ()
        else:
            held = open_workshop(own, make=False)
            stack.callback(held.close)
        return kept_builds(held, words), what_it_says(held)
