"""Mutated inputs, seeded: values of another kind, lost and doubled parts, flipped bytes."""

import copy
import json

STRANGE = (
    None, True, 0, -1, 1e300, -1e300, 10**400, float("nan"), "", "x" * 200, "\0", "\ud800", [], {},
    [[]], {"kind": "ring"}, 0.5, "=1+1",
)  # fmt: skip


def _places(value, path=()):
    yield path
    inner = value.items() if isinstance(value, dict) else enumerate(value)
    for key, one in inner:
        if isinstance(one, dict | list):
            yield from _places(one, (*path, key))


def mutated(value, random):
    """JSON text of a value changed in one to three places."""
    value = copy.deepcopy(value)
    for _ in range(random.randint(1, 3)):
        here = value
        for key in random.choice(list(_places(value))):
            here = here[key]
        if not here:
            continue
        key = random.choice(list(here) if isinstance(here, dict) else range(len(here)))
        what = random.randrange(4)
        if what == 0:
            del here[key]
        elif what == 1 and isinstance(here, list):
            here.insert(key, copy.deepcopy(random.choice(here)))
        elif what == 2 and isinstance(here, dict):
            here["strange"] = here.pop(key)
        else:
            here[key] = copy.deepcopy(random.choice(STRANGE))
    return json.dumps(value)


def flipped(data, random):
    """Bytes with some flipped, cut off, or doubled."""
    changed = bytearray(data)
    for _ in range(random.randint(1, 5)):
        at = random.randrange(len(changed)) if changed else 0
        what = random.randrange(4)
        if what == 0:
            changed[at : at + 1] = bytes([random.randrange(256)])
        elif what == 1:
            del changed[at : at + random.randrange(40)]
        elif what == 2:
            changed[at:at] = changed[at : at + 40]
        else:
            changed[at:at] = random.choice((b'"', b",", b"\n", b"=", b"1e999", b"\xff", b"NaN"))
    return bytes(changed)
