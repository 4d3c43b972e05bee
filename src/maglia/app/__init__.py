"""The window: shell, rooms, session, painting. Reads the core; the core knows nothing of it."""

# PySide6 reads the source of every module imported after it, so the core and the files come first.
# The numerics are heavy and nothing on the first picture needs them: they are imported by the
# worker and by functions, never at the top of a module here.
import maglia.core.assembly.expand
import maglia.core.edits.rearrange
import maglia.core.workshop.tray
import maglia.files.piece_json  # noqa: F401
