"""Files: read with a limit, written whole, through links, with their mode, or refused."""

import os
import stat
from pathlib import Path

import pytest

from maglia.core.values.record import DomainError
from maglia.files import disk


def names(folder):
    return sorted(path.name for path in folder.iterdir())


def test_a_write_goes_through_a_link_and_keeps_mode_and_hard_links(tmp_path):
    real, link, twin = tmp_path / "real.json", tmp_path / "link.json", tmp_path / "twin.json"
    real.write_text("old and longer")
    real.chmod(0o600)
    link.symlink_to(real)
    disk.write_atomically(link, "new")
    assert link.is_symlink()
    assert real.read_text() == "new"
    assert stat.S_IMODE(real.stat().st_mode) == 0o600
    os.link(real, twin)
    disk.write_atomically(twin, "both")
    assert real.read_text() == twin.read_text() == "both"
    assert real.stat().st_ino == twin.stat().st_ino
    assert names(tmp_path) == ["link.json", "real.json", "twin.json"]


def test_a_new_file_has_the_mode_that_new_files_have(tmp_path):
    disk.write_atomically(tmp_path / "a", "text")
    (tmp_path / "b").write_text("text")
    assert (tmp_path / "a").stat().st_mode == (tmp_path / "b").stat().st_mode


@pytest.mark.parametrize(
    "make", ["read-only", "folder", "pipe", "loop", "no folder", "nul", "long"]
)
def test_what_cannot_be_written_is_refused_and_nothing_is_left(tmp_path, make):
    path = tmp_path / "piece.json"
    if make == "read-only":
        path.write_text("old")
        path.chmod(0o444)
    elif make == "folder":
        path.mkdir()
    elif make == "pipe":
        os.mkfifo(path)
    elif make == "loop":
        path.symlink_to(path)
    else:
        path = {
            "no folder": tmp_path / "none" / "a.json",
            "nul": Path(f"{tmp_path}/a\0b"),
            "long": tmp_path / ("n" * 300),
        }[make]
    before = names(tmp_path)
    with pytest.raises(DomainError, match=r"cannot be saved: .*\w"):
        disk.write_atomically(path, "new")
    assert names(tmp_path) == before
    if make == "read-only":
        assert path.read_text() == "old"


def test_half_a_character_is_no_file_and_leaves_nothing(tmp_path):
    with pytest.raises(DomainError, match="half a character"):
        disk.write_atomically(tmp_path / "a", "\ud800")
    assert names(tmp_path) == []


@pytest.mark.parametrize("make", ["pipe", "device", "folder", "large", "gone", "nul"])
def test_only_plain_files_of_some_size_are_read_and_at_once(tmp_path, make):
    path = tmp_path / "file"
    if make == "pipe":
        os.mkfifo(path)
    elif make == "device":
        path = Path("/dev/zero")
    elif make == "folder":
        path.mkdir()
    elif make == "large":
        with path.open("wb") as out:
            out.truncate(disk.LARGEST + 1)
    elif make == "nul":
        path = Path(f"{tmp_path}/a\0b")
    with pytest.raises(DomainError, match=r"cannot be read|is larger than 20 MB"):
        disk.read_file(path)


def test_a_name_that_is_no_text_is_a_name(tmp_path):
    path = tmp_path / os.fsdecode(b"caf\xe9.json")
    disk.write_atomically(path, "text")
    assert disk.read_text(path) == "text"
    assert disk.shown(path) == "caf\ufffd.json"
    assert len(names(tmp_path)) == 1


def test_what_a_killed_writer_left_is_swept_away_and_a_living_ones_is_not(tmp_path):
    gone, mine = tmp_path / ".maglia-999999999-a.tmp", tmp_path / f".maglia-{os.getpid()}-b.tmp"
    gone.touch()
    mine.touch()
    disk.write_atomically(tmp_path / "a", "text")
    assert names(tmp_path) == [mine.name, "a"]


def test_what_is_set_aside_is_in_nobodys_way_and_loses_nothing(tmp_path):
    for text, name in (("1", "a.unreadable"), ("2", "a.unreadable-1")):
        (tmp_path / "a").write_text(text)
        assert disk.set_aside(tmp_path / "a").name == name
        assert (tmp_path / name).read_text() == text
    assert disk.set_aside(tmp_path / "a") is None
    assert disk.free_name(tmp_path / "a.unreadable", "mine").name == "a-mine.unreadable"
