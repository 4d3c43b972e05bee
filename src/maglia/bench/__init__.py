"""The window: rooms, views, painting. Reads the core; the core knows nothing of it."""

# PySide6 inspects every module imported after it, which breaks pydantic's lazy start; so the
# core and the files, which use pydantic, are imported before any Qt module.
import maglia.core.report
import maglia.files.piece_json  # noqa: F401
