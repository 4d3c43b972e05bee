"""Entries of a mapping by the points they touch, so that what has not changed is not asked."""

from collections.abc import Callable, Iterable, Mapping
from typing import Generic, TypeVar

Key = TypeVar("Key")
Own = TypeVar("Own")


class Touching(Generic[Key, Own]):
    """Entries of a mapping by the points they touch."""

    def __init__(
        self, entries: Mapping[Key, Own], points: Callable[[tuple[Key, Own]], Iterable[int]]
    ) -> None:
        self.entries = list(entries.items())
        self.by_point: dict[int, list[int]] = {}
        for k, own in enumerate(self.entries):
            for point in points(own):
                self.by_point.setdefault(point, []).append(k)

    def of(self, points: Iterable[int]) -> list[tuple[Key, Own]]:
        """What touches any of these points, in the mapping's order."""
        found = {k for point in points for k in self.by_point.get(point, ())}
        return [self.entries[k] for k in sorted(found)]
