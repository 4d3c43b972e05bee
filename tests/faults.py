"""Mutated inputs, seeded: values of another kind, lost and doubled parts, flipped bytes."""

import copy
import json

STRANGE = (
    None, True, 0, -1, 1e300, -1e300, 10**400, float("nan"), "", "x" * 200, "\0", "\ud800", [], {},
    [[]], {"kind": "ring"}, 0.5, "=1+1",
)  # fmt: skip


FACTORS = (0, -1, 1e-3, 0.1, 0.5, 1.01, 2, 10, 1000)
TRADE_WORDS = (
    "tiers", "first", "gaps", "length", "to", "nested", "every", "25", "1e9", "-3", "0", "1/2",
    "mm", '"', "hem", "sag", "flat", "match", "Strand", "“Tail”", "NaN", "5,4,3", "@", "\ud800",
    "9" * 99,
)  # fmt: skip


def _places(value, path=()):
    yield path
    inner = value.items() if isinstance(value, dict) else enumerate(value)
    for key, one in inner:
        if isinstance(one, dict | list):
            yield from _places(one, (*path, key))


def other_number(own, random):
    factor = random.choice(FACTORS)
    return own * factor if isinstance(own, float) else int(min(own, 10**9) * factor)


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
        what = random.randrange(5)
        if what == 4 and type(here[key]) in (int, float):  # still a number, but another one
            here[key] = other_number(here[key], random)
        elif what == 0:
            del here[key]
        elif what == 1 and isinstance(here, list):
            here.insert(key, copy.deepcopy(random.choice(here)))
        elif what == 2 and isinstance(here, dict):
            here["strange"] = here.pop(key)
        else:
            here[key] = copy.deepcopy(random.choice(STRANGE))
    return json.dumps(value)


def nudged(value, random):
    """JSON text of a value that is as likely as not still sound: other numbers, names of others,
    list entries lost or doubled."""
    value = copy.deepcopy(value)
    for _ in range(random.randint(1, 4)):
        path = random.choice(list(_places(value)))
        here = value
        for key in path:
            here = here[key]
        if not here:
            continue
        key = random.choice(list(here) if isinstance(here, dict) else range(len(here)))
        own = here[key]
        if type(own) in (int, float):
            here[key] = other_number(own, random)
        elif isinstance(own, str):
            here[key] = random.choice([*_values_of(value, key)] or [own])
        elif isinstance(here, list):
            here[key : key + 1] = [own] * random.choice((0, 2, 3))
    return json.dumps(value)


def _values_of(value, key):
    """Everything that stands under a name anywhere."""
    for path in _places(value):
        here = value
        for step in path:
            here = here[step]
        if isinstance(here, dict) and key in here:
            yield here[key]


def reworded(text, random):
    """A phrase with words lost, doubled, in another order, or strange."""
    words = text.split()
    for _ in range(random.randint(0, 3)):
        at = random.randrange(len(words) + 1)
        words[at : at + random.randrange(2)] = random.choice(([], [random.choice(TRADE_WORDS)]))
    return " ".join(words) if random.random() < 0.9 else "".join(words)


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
