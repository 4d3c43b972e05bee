"""Lists of parts: read as they come from suppliers, refused row by row, written and read again."""

import csv
import io

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from maglia.core.parts.parts import Bead, Ring
from maglia.core.values.record import DomainError
from maglia.demo import demo_tray
from maglia.files.parts_csv import (
    Column,
    brought_in,
    guessed,
    parts_csv,
    read_table,
    refused_csv,
)
from maglia.files.shelf import shelf


def brought(text, kind="", known=(), encoding="utf-8"):
    table = read_table(text.encode(encoding))
    return brought_in(table, guessed(table), kind, known)


def test_what_is_written_out_reads_back_the_same():
    for parts in (demo_tray().parts, shelf()):
        found = brought(parts_csv(parts))
        assert not found.refused
        names = {part.name: part for part in parts}
        for part in found.parts:
            assert part == replace(names[part.name], id=part.id)
        again = brought(parts_csv(parts), known=found.parts)
        assert (again.parts, again.same) == ((), len(parts))


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "utf-16-le", "latin-1"])
@pytest.mark.parametrize("sign", [",", ";", "\t", "|"])
def test_encodings_separators_and_the_decimal_comma(encoding, sign):
    cells = [["Name", "Kind", "Inner (mm)", "Draht", "Preis"],
             ['Ring "fein", 4', "ring", "4,5", "0,8", "1.234,50"]]  # fmt: skip
    out = io.StringIO()
    csv.writer(out, delimiter=sign).writerows([*cells, *[cells[1]] * 3])
    text = out.getvalue().replace("fein", "für fein")
    found = brought(text, encoding=encoding)
    assert not found.refused
    assert (found.parts[0].name, found.parts[0].inner_mm) == ('Ring "für fein", 4', 4.5)
    assert (found.parts[0].wire_mm, found.parts[0].price) == (0.8, 1234.5)
    assert found.same == 3


@pytest.mark.parametrize(
    ("text", "kind", "part"),
    [
        ("name,od,wire\nA,6,1\n", "ring", Ring(id="a", name="A", inner_mm=4, wire_mm=1)),
        ("name,inner,gauge awg\nA,4,20\n", "ring",
         Ring(id="a", name="A", inner_mm=4, wire_mm=0.812)),
        ("description,article,inside (in),wire\nJump ring,X9,1/4,0.03 in\n", "",
         Ring(id="jump-ring", name="Jump ring", inner_mm=6.35, wire_mm=0.762)),
        ("name,length,hole,color\nGlass bead,6,1,teal\n", "",
         Bead(id="glass-bead", name="Glass bead", length_mm=6, width_mm=6, hole_mm=1,
              colour="#2f7f7c")),
        ("name,kind,material\n'=SUM(1),ring,Gold plated brass\n", "",
         Ring(id="sum-1", name="=SUM(1)", material="gold-plated brass")),
    ],
)  # fmt: skip
def test_headings_are_guessed_with_their_units(text, kind, part):
    assert brought(text, kind).parts == (part,)


@pytest.mark.parametrize(
    ("row", "why"),
    [
        ("A,,4,0.8,brass,", "it does not say what kind of part it is"),
        ("A,widget,4,0.8,brass,", "“widget” is no kind of part"),
        ("A,ring,four,0.8,brass,", "“four” is no size"),
        ("A,ring,-4,0.8,brass,", "is no size"),
        (f"A,ring,4,0.8,brass,{'9' * 400}", "is no figure"),
        ("A,ring,4,99999,brass,", "wire: expected `float` <= 20000"),
        ("A,ring,4,0.8,mithril,", "“mithril” is no material that is known"),
        ("A,ring,4,0.8,brass,2.5", "is no whole number of pieces"),
        ("A,bead,4,0.8,brass,", "a bead has no inner"),
        ("A,connector,,,brass,", "a connector needs its holes"),
    ],
)
def test_a_row_that_is_no_part_is_refused_with_its_line_and_reason(row, why):
    text = f"name,kind,inner,wire,material,stock\nOK,ring,4,0.8,brass,7\n{row}\n"
    found = brought(text)
    assert [part.name for part in found.parts] == ["OK"]
    assert [deed.amount for _, deed in found.lies] == [7]
    (refused,) = found.refused
    assert refused.line == 3
    assert why in refused.reason
    aside = refused_csv(read_table(text.encode()), found.refused).splitlines()
    assert aside[0].endswith("line,reason")
    assert aside[1].startswith(row)


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "a heading at most"),
        (b"name,inner\n", "a heading at most"),
        (b"\x00\x01\x02\x03name,inner\n\x00,4\n", "characters that no text has"),
        (b'name,inner\n"A,4\n', "does not end as it began"),
        (b"a," * 300 + b"\n" + b"1," * 300, "too many"),
    ],
)
def test_what_is_no_list_is_said(data, said):
    with pytest.raises(DomainError, match=said):
        read_table(data)


def test_a_cell_a_spreadsheet_would_compute_is_marked_and_read_as_it_was():
    part = Ring(id="a", name="=cmd|' /C calc'!A0", note="+1 -1 @x", inner_mm=4.0)
    text = parts_csv([part])
    assert "\n'=cmd" in text
    assert ",'+1" in text
    assert brought(text).parts[0] == replace(part, id=brought(text).parts[0].id)


def test_a_long_list_tells_how_far_it_is_and_stops_when_asked():
    rows = "".join(f"Ring {k},ring,4,0.8\n" for k in range(2000))
    table = read_table(f"name,kind,inner,wire\n{rows}".encode())
    seen = []
    columns = guessed(table)
    assert len(brought_in(table, columns, progress=seen.append).parts) == 2000
    assert seen == [0, 500, 1000, 1500]
    assert brought_in(table, columns, stopped=lambda: len(seen) > 0) is None


CELLS = st.text(st.characters(codec="utf-8", exclude_characters="\0"), max_size=8)


@settings(max_examples=150, deadline=None)
@given(st.lists(st.lists(CELLS, min_size=1, max_size=6), min_size=2, max_size=5), st.data())
def test_any_table_comes_to_parts_or_reasons(rows, data):
    out = io.StringIO()
    csv.writer(out).writerows(rows)
    try:
        table = read_table(out.getvalue().encode())
    except DomainError:
        return
    targets = ("", "name", "kind", "inner", "wire", "stock", "holes", "material", "price")
    columns = [Column(data.draw(st.sampled_from(targets))) for _ in table.head]
    found = brought_in(table, columns, data.draw(st.sampled_from(("", "ring", "bead"))))
    assert len(found.parts) + len(found.refused) + found.same == len(table.rows)
