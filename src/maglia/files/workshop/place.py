"""Where the maker's own workshop file lies; apart from `store`, which no start waits for."""

from pathlib import Path


def workshop_path(*, demo: bool = False) -> Path:
    """The maker's own workshop, or the copy that belongs to the demo."""
    from platformdirs import user_data_path

    return user_data_path("maglia") / ("demo.sqlite" if demo else "workshop.sqlite")
