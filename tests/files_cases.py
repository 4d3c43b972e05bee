"""Piece files that must be refused, and a part of what must be said."""

import json

from maglia.files.migrations import VERSION

GOOD = {
    "format": "maglia-piece",
    "version": 1,
    "name": "Small",
    "parts": [{"kind": "chain", "id": "c", "name": "C", "pitches_mm": [3.0]}],
    "runs": [{"name": "Strand", "centre": {"kind": "chain", "part": "c", "links": 9}}],
}


def changed(**more):
    return json.dumps({**GOOD, **more})


def strand_with(centre):
    return changed(runs=[{"name": "Strand", "centre": centre}])


def part_with(**more):
    return changed(parts=[{**GOOD["parts"][0], **more}])


CASES = {
    "empty": ("", "empty"),
    "blank": ("  \n", "empty"),
    "binary": (b"\x89PNG\r\n\x1a\n\x00\xff", "not a whole JSON"),
    "truncated": (json.dumps(GOOD)[:-9], "not a whole JSON"),
    "another format": ('{"format": "else"}', "not a piece"),
    "a list": ("[]", "not a piece"),
    "newer": (
        changed(version=VERSION + 1),
        f"it is of version {VERSION + 1}, and this program knows versions 1 to {VERSION}",
    ),
    "version nought": (changed(version=0), "version 0"),
    "a version of words": (changed(version="1"), "version 1"),
    "no version of a list": (changed(version=[1]), "version [1]"),
    "stock of version 1 that is none": (part_with(stock_mm=["long"]), "its stock is no list"),
    "stock in version 2": (
        changed(version=2, parts=[{**GOOD["parts"][0], "stock": 3}]), "“stock” is not a field",
    ),
    "no version": (json.dumps({"format": "maglia-piece"}), "version None"),
    "deep": ('{"a":' * 5000 + "1" + "}" * 5000, "not a whole JSON"),
    "deep repeat": (
        changed(runs=[{"name": "S", "items": [json.loads(
            '{"kind":"repeat","times":1,"items":[' * 150
            + '{"kind":"chain","part":"c","links":1}' + "]}" * 150)]}]),
        "more than 16 repeats within each other",
    ),
    "nan": (changed(name="x").replace("3.0", "NaN"), "not a whole JSON"),
    "repeats that write out too much": (
        strand_with({"kind": "repeat", "times": 300, "items": [
            {"kind": "repeat", "times": 300, "items": [
                {"kind": "chain", "part": "c", "links": 1}]}]}),
        "a repeat that writes out 90,000 items is more than 60,000",
    ),
    "half a character": (changed(name="\ud800"), "not a whole JSON"),
    "half a kind": (strand_with({"kind": "\ud800"}), "not a whole JSON"),
    "a number without end": (changed(wraps=10**400), "wraps is 1000"),
    "infinite": (changed().replace("3.0", "1e999"), "Number out of range"),
    "negative": (part_with(wire_mm=-0.5), "parts “C”, wire_mm is -0.5"),
    "zero pitch": (part_with(pitches_mm=[0]), "pitches_mm 1 is 0"),
    "words for a number": (part_with(wire_mm="thick"), "wire_mm is 'thick'"),
    "a million links": (
        strand_with({"kind": "chain", "part": "c", "links": 1_000_000}),
        "runs “Strand”, centre, links is 1000000",
    ),
    "a million through repeats": (
        changed(runs=[{**GOOD["runs"][0], "items": [
            {"kind": "repeat", "times": 20000, "items": [
                {"kind": "chain", "part": "c", "links": 20000}]}]}]),
        "run “Strand” brings the piece to more than 60,000",
    ),
    "unknown field": (changed(colour="red"), "“colour” is not a field"),
    "missing field": (strand_with({"kind": "chain", "part": "c"}), "“links” is missing"),
    "unknown kind": (strand_with({"kind": "rope"}), "centre, kind: there is no 'rope'"),
    "missing part": (strand_with({"kind": "chain", "part": "d", "links": 3}), "uses “d”"),
}  # fmt: skip
