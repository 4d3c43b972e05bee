"""Everything that is read, and what makes inputs for it."""

import json
import time
import zipfile
from contextlib import closing, suppress
from io import BytesIO
from pathlib import Path
from tempfile import TemporaryDirectory

from msgspec.structs import replace

from faults import flipped, mutated, nudged, reworded
from maglia.app.settings import Settings
from maglia.core.assembly.expand import expand
from maglia.core.fit.look import Trials
from maglia.core.fit.solve import solve as solve_fits
from maglia.core.fit.wishes import FORMS, read_fit, with_fit, written
from maglia.core.hang.solution import Cancelled
from maglia.core.hang.solve import solve
from maglia.core.joining.marked import Mark
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.rings import rings
from maglia.core.joining.ways import USUAL
from maglia.core.report import as_json, as_text, evaluate
from maglia.core.sheets.count import counts, wire_needs
from maglia.core.sheets.mass import balance
from maglia.core.values.record import DomainError
from maglia.core.workshop.lying import Deed
from maglia.demo import demo_names, demo_path, demo_tray
from maglia.files.kept import cut_off
from maglia.files.kinds import kind_of
from maglia.files.network_json import answer, read_network
from maglia.files.parts_csv import brought_in, guessed, parts_csv, read_table
from maglia.files.piece_json import piece_text, read_piece, write_piece
from maglia.files.set_json import Entry, Set, read_set, set_text
from maglia.files.tables import counts_csv, read_wearers
from maglia.files.workshop import builds, contents, log, log_reading, stock
from maglia.files.workshop.bundle import gathered, read_bundle, write_bundle
from maglia.files.workshop.store import open_workshop
from maglia.phrases.book import BOOK
from maglia.phrases.here import Here
from maglia.phrases.line import understood
from maglia.phrases.told import told

AT = "2026-01-01T10:00:00"
PATIENCE_S = 0.6
REFERENCE = Path(__file__).parent / "data" / "reference"
WEARERS = b'role,neck_mm,wrist_mm\nthe usher,350,165\nthe prompter,"380",\n'


def through_piece(path):
    piece = read_piece(path)
    piece_text(piece)
    assembly = expand(piece)
    plan = joining_plan(assembly)
    counts(assembly), rings(assembly, plan), wire_needs(assembly), balance(assembly)


def through_all(path):
    """As far as a piece can go: hung, measured, checked, fitted, reported and saved. Like a maker
    who works on, it wants no answer any more after `PATIENCE_S`."""
    piece = read_piece(path)
    write_piece(piece, path)
    assert read_piece(path) == piece
    end = time.process_time() + PATIENCE_S
    with suppress(Cancelled):
        found = evaluate(piece, lambda: time.process_time() > end)
        json.dumps(as_json(found), allow_nan=False)
        assert as_text(found)
        assert counts_csv(found)
        solve_fits(piece, Trials(lambda: time.process_time() > end))


def through_network(path):
    json.dumps(answer(solve(read_network(path)), 0.0), allow_nan=False)


def through_wishes(path):
    piece, text = read_piece(demo_path("gallery-tiers")), path.read_bytes().decode()
    fit = read_fit(text, piece)
    assert read_fit(written(fit), piece) == fit
    piece_text(with_fit(piece, fit))


def through_kept(path):
    for file, kept in cut_off((path.parent,))[0]:
        assert kept.clock
        file.forget()


def through_settings(path):
    settings = Settings(path)
    settings.count_use("a part")
    assert isinstance(settings["last_piece"], str)


def read_through(reader, path, data):
    path.parent.mkdir(exist_ok=True)
    path.write_bytes(data)
    try:
        reader(path)
    except DomainError:
        return "refused"
    return "read"


def changed(values, likely=0.2):
    """A maker of inputs: one of some values with its structure, its
    bytes or, in a share that is `likely`, only its numbers and names changed."""

    def made(random):
        value, draw = random.choice(values), random.random()
        if draw < likely:
            return nudged(value, random).encode()
        if draw < (1 + likely) / 2:
            return mutated(value, random).encode()
        return flipped(json.dumps(value).encode(), random)

    return made


def pieces():
    return [json.loads(demo_path(name).read_text()) for name in demo_names()]


def networks():
    return [json.loads((REFERENCE / f"{n}.json").read_text()) for n in ("case7b", "case9a")]


KEPT = {"path": "/a/b.json", "print": "0", "when": 5.0, "piece": demo_path("ushers-y").read_text()}
SETTINGS = {"theme": "slate", "unit": "cm", "motion": True, "last_piece": "a", "used": {"a": 1}}
ASKED = [form.replace("NAME", "Tier 2") for form, _ in FORMS]


def through_told(path):
    """A piece as it is said, and its picture of every member."""
    piece = read_piece(path)
    expand(piece)
    told(piece)


def through_set(path):
    kind_of(path)
    made = read_set(path)
    assert read_set_again(path, made) == made


def read_set_again(path, made):
    path.write_text(set_text(made))
    return read_set(path)


def through_list(path):
    table = read_table(path.read_bytes())
    found = brought_in(table, guessed(table), "ring")
    parts_csv(found.parts)


def through_exported(path):
    """An exported workshop goes into a new one, and is looked at."""
    kind_of(path)
    whole = contents.read_whole(path)
    with closing(open_workshop(path.with_name(f"{time.time_ns()}.sqlite"))) as own:
        contents.import_whole(own, whole)
        look_through(own)
    for file in path.parent.glob("*.sqlite*"):
        file.unlink()


def through_workshop(path):
    try:
        with closing(open_workshop(path)) as own:
            look_through(own)
    finally:
        for file in path.parent.glob("*"):
            if file != path:
                file.unlink()


def look_through(own):
    """All that rooms and commands read of it."""
    log_reading.kept_builds(own, "")
    log_reading.what_it_says(own)
    stock.lying(own), stock.faults(own), contents.rules(own), contents.faults(own), log.faults(own)
    for one in builds.listed(own):
        with suppress(DomainError):
            builds.read(own, one.id), builds.marks(own, one.id), builds.notes(own, one.id)


def through_phrases(path):
    """A line said on some piece, and what its first offers do."""
    number, _, text = path.read_bytes().decode("utf-8", "surrogatepass").partition(" ")
    here = Here(PIECES[int(number) % len(PIECES)], TRAY, None)
    for offer in understood(text, here).offers[:2]:
        if (edited := offer.do()) is not None:
            expand(edited.piece)


def a_phrase(random):
    """Words of the book, mixed and made strange."""
    words = random.choice(SAID)
    if random.random() < 0.3:
        words = f"{words} {random.choice(SAID)}"
    if random.random() < 0.4:
        numbers = [k for k, one in enumerate(words.split()) if one[0].isdigit()]
        if numbers:
            split = words.split()
            split[random.choice(numbers)] = random.choice(NUMBERS)
            words = " ".join(split)
    words = reworded(words, random)
    if random.random() < 0.2:
        at = random.randrange(len(words) + 1)
        words = words[:at] + random.choice('×“”",:;/()+-–{}[]%é\u202e\0\n\ud800ß') + words[at:]
    return f"{random.randrange(1000)} {words}".encode("utf-8", "surrogatepass")


NUMBERS = ("9" * 400, "0", "-1", "1e308", "9999999999", "0." + "0" * 300 + "1", "1/0", "∞", "½½",
           "١٢", "999999", "3500 mm", "1000 in", "²")  # fmt: skip
SAID = [form.phrase for chapter in BOOK for form in chapter.forms]
PIECES, TRAY = [read_piece(demo_path(name)) for name in demo_names()], demo_tray()
A_SET = json.loads(set_text(Set("The second act", tuple(Entry(p, 2) for p in PIECES[:3]))))
A_LIST = (b"name;kind;inner;wire;material;price;stock\nTiny ring;ring;2.5;0.5;silver;0.12;200\n"
          b"Large ring;ring;9;1,2;brass;;\nRolo;chain;3.1;0.8;steel;4.50;30 m\n")  # fmt: skip
_WORKSHOPS = {}


def workshops():
    """A workshop with stock and a build: its file, exported, and a bundle of its build."""
    if not _WORKSHOPS:
        with TemporaryDirectory() as folder:
            path = Path(folder) / "own.sqlite"
            with closing(open_workshop(path)) as own:
                piece = replace(PIECES[0], id="p")
                contents.change(own, [contents.added(one) for one in (*piece.parts, *piece.units)])
                for part in piece.parts[:4]:
                    stock.do(own, part, Deed("bought", 60), AT)
                number = builds.begin(own, piece, USUAL, AT)
                builds.mark(
                    own, number, [Mark(place="a", sign="b", sort="again", words="a")], AT, 3
                )
                builds.note(own, number, "a", "note", "stiff", AT)
                one = log.Measure(at=AT, what="hem", planned_mm=10.0, measured_mm=11.0)
                log.measured(own, number, one)
                log.finished(own, number, 30.0, [log.Spent(kind="ring", number=9, minutes=3.3)],
                             4.2, "14.20")  # fmt: skip
                _WORKSHOPS["exported"] = json.loads(contents.exported(own))
                write_bundle(path.with_name("b"), gathered(piece, own))
                _WORKSHOPS["bundle"] = path.with_name("b").read_bytes()
            _WORKSHOPS["file"] = path.read_bytes()
    return _WORKSHOPS


def a_bundle(random):
    """Its bytes flipped, or one of its members changed."""
    data = workshops()["bundle"]
    if random.random() < 0.3:
        return flipped(data, random)
    out = BytesIO()
    with zipfile.ZipFile(BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        spoilt = random.choice(old.namelist())
        for name in old.namelist():
            member = old.read(name)
            if name == spoilt:
                value = json.loads(member)
                member = random.choice((mutated, nudged))(value, random).encode()
            new.writestr(name, member)
    return out.getvalue()


def an_exported(random):
    return changed([workshops()["exported"]], 0.5)(random)


def a_workshop_file(random):
    """Single bytes are flipped: what is cut or moved is seen at once."""
    data = bytearray(workshops()["file"])
    for _ in range(random.randint(1, 8)):
        data[random.randrange(len(data))] = random.randrange(256)
    return bytes(data)


READERS = {
    "piece": (through_piece, changed(pieces()), "piece.json", 500),
    "whole": (through_all, changed(pieces(), 0.8), "whole.json", 30),
    "network": (read_network, changed(networks()), "network.json", 500),
    "solved": (through_network, changed(networks(), 0.8), "solved.json", 60),
    "kept": (through_kept, changed([KEPT]), "kept/x.json", 500),
    "settings": (through_settings, changed([SETTINGS]), "settings.json", 500),
    "wearers": (read_wearers, lambda random: flipped(WEARERS, random), "w.csv", 500),
    "told": (through_told, changed(pieces(), 0.8), "told.json", 60),
    "bundle": (read_bundle, a_bundle, "b.maglia-bundle", 150),
    "exported": (through_exported, an_exported, "exported.json", 60),
    "workshop": (through_workshop, a_workshop_file, "own.sqlite", 60),
    "set": (through_set, changed([A_SET]), "set.json", 100),
    "list": (through_list, lambda random: flipped(A_LIST, random), "list.csv", 300),
    "phrases": (through_phrases, a_phrase, "said.txt", 200),
    "wishes": (
        through_wishes,
        lambda random: reworded(random.choice(ASKED), random).encode("utf-8", "replace"),
        "wish.txt",
        300,
    ),
}
"""Per reader: what it does with a file, what makes an input, the file,
and how many are in the suite."""
