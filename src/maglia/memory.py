"""Tells Python's collector what this program is like. Called before what is heavy is imported and
again when it is there.

Pieces and assemblies are trees of immutable values without cycles, made by the ten thousand:
looking through all of them for cycles at every few hundred new ones doubles the time they take.
"""

import gc


def settle() -> None:
    """Leave out of collections what is imported already, and collect seldom."""
    gc.freeze()
    gc.set_threshold(50_000, 20, 20)
