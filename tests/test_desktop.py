"""At home on the desktop: what is put where, that its own validators accept it, and that all of it
goes again."""

import os
import shutil
import subprocess
from pathlib import Path

import pytest
from click.testing import CliRunner
from PySide6.QtCore import QSize
from PySide6.QtGui import QImage

from maglia.cli import main
from maglia.cli_desktop import SHELLS, manual_page
from maglia.demo import demo_path
from maglia.desktop.install import ID, PNG_SIZES, _quoted, own_command


@pytest.fixture
def at_home(tmp_path, monkeypatch):
    """Installed into an empty folder that another program has a file in."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "share"))
    monkeypatch.setenv("MAGLIA_LAUNCHER", "/opt/my tools/maglia")
    other = tmp_path / "share" / "applications" / "other.desktop"
    other.parent.mkdir(parents=True)
    other.write_text("[Desktop Entry]\n")
    done = CliRunner().invoke(main, ["desktop", "install"])
    assert done.exit_code == 0, done.output
    return tmp_path / "share"


def validated(*line):
    """What a validator says, if it is there."""
    if shutil.which(line[0]) is None:
        pytest.skip(f"{line[0]} is not installed")
    done = subprocess.run([str(word) for word in line], capture_output=True, text=True, check=False)
    return done.returncode, done.stdout + done.stderr


def test_all_is_in_its_place_and_goes_again(at_home):
    entry = (at_home / "applications" / f"{ID}.desktop").read_text()
    assert 'Exec="/opt/my tools/maglia" open %f\n' in entry
    assert "TryExec=/opt/my tools/maglia\n" in entry
    for size in PNG_SIZES:
        png = at_home / "icons" / "hicolor" / f"{size}x{size}" / "apps" / "maglia.png"
        head = png.read_bytes()[:24]
        assert head.startswith(b"\x89PNG")
        assert int.from_bytes(head[16:20], "big") == size  # its width, as PNG says it
    assert "thumbnail --size %s %i %o" in (at_home / "thumbnailers/maglia.thumbnailer").read_text()
    done = CliRunner().invoke(main, ["desktop", "remove"])
    assert done.exit_code == 0
    left = {path.name for path in at_home.rglob("*") if "maglia" in path.name.lower()}
    assert left == set()
    assert (at_home / "applications" / "other.desktop").exists()
    again = CliRunner().invoke(main, ["desktop", "remove"])
    assert again.output.startswith("0 files")


def test_a_folder_that_cannot_be_written_is_named(tmp_path, monkeypatch):
    blocked = tmp_path / "share"
    blocked.write_text("a file where the folder should be")
    monkeypatch.setenv("XDG_DATA_HOME", str(blocked))
    done = CliRunner().invoke(main, ["desktop", "install"])
    assert done.exit_code == 2
    assert "cannot be made" in done.output


def test_the_entry_is_valid(at_home):
    status, said = validated("desktop-file-validate", at_home / "applications" / f"{ID}.desktop")
    assert (status, said) == (0, "")


def test_the_description_is_valid(at_home):
    about = at_home / "metainfo" / f"{ID}.metainfo.xml"
    status, said = validated("appstreamcli", "validate", "--no-net", about)
    assert status == 0, said


def test_the_type_is_known_by_its_name(at_home):
    status, said = validated("update-mime-database", at_home / "mime")
    assert status == 0, said
    known = (at_home / "mime" / "globs2").read_text()
    assert "60:application/x-maglia-piece:*.maglia\n" in known
    assert "60:application/x-maglia-bundle:*.maglia-bundle\n" in known


def test_the_manual_is_valid_and_names_every_command(at_home):
    page = at_home / "man/man1/maglia.1"
    text = page.read_text().replace("\\-", "-")
    for command in ("demo", "open", "count", "workshop export", "desktop install"):
        assert f".B maglia {command}\n" in text
    status, said = validated("mandoc", "-T", "lint", "-W", "warning", page)
    assert (status, said) == (0, "")


@pytest.mark.parametrize("shell", SHELLS)
def test_shells_take_their_words(at_home, shell):
    status, said = validated(shell, "-n", at_home / SHELLS[shell])
    assert status == 0, said


def test_demo_pieces_are_completed():
    line = {
        "_MAGLIA_COMPLETE": "bash_complete",
        "COMP_WORDS": "maglia demo gall",
        "COMP_CWORD": "2",
    }
    done = CliRunner().invoke(main, prog_name="maglia", env=line)
    assert "plain,gallery-tiers" in done.output


@pytest.mark.parametrize(
    ("word", "quoted"),
    [
        ("/usr/bin/maglia", "/usr/bin/maglia"), ("/a b/m", '"/a b/m"'), ("50%", "50%%"),
        ('/a"b', '"/a\\\\"b"'), ("/a$b", '"/a\\\\$b"'),
    ],
)  # fmt: skip
def test_words_of_a_command_are_quoted_as_entries_want_them(word, quoted):
    assert _quoted(word) == quoted


def test_the_command_is_the_launcher_or_the_script_or_the_module(tmp_path, monkeypatch):
    monkeypatch.setenv("MAGLIA_LAUNCHER", "/x/maglia")
    assert own_command() == ("/x/maglia",)
    monkeypatch.delenv("MAGLIA_LAUNCHER")
    monkeypatch.setattr("sys.executable", str(tmp_path / "python"))
    assert own_command() == (str(tmp_path / "python"), "-m", "maglia")
    (tmp_path / "maglia").write_text("")
    assert own_command() == (str(tmp_path / "maglia"),)


def test_a_file_alone_is_opened(tmp_path, monkeypatch):
    asked = []
    monkeypatch.setattr("maglia.cli._open_window", lambda path, *rest, **more: asked.append(path))
    piece = tmp_path / "mine.maglia"
    shutil.copyfile(demo_path(), piece)
    assert CliRunner().invoke(main, [str(piece)]).exit_code == 0
    assert asked == [piece]
    odd = CliRunner().invoke(main, ["no-such-word"])
    assert odd.exit_code == 2
    assert "No such command" in odd.output


def test_pictures_are_small_or_true_to_size_and_transparent(qapp, tmp_path):
    small, true, lines = (tmp_path / name for name in ("small.png", "true.png", "true.svg"))
    run = CliRunner().invoke
    piece = str(demo_path("trapdoor-earrings"))
    assert run(main, ["thumbnail", "--size", "128", piece, str(small)]).exit_code == 0
    assert run(main, ["picture", piece, str(true), "--dpi", "254"]).exit_code == 0
    assert run(main, ["picture", piece, str(lines)]).exit_code == 0
    assert QImage(str(small)).size() == QSize(128, 128)
    picture = QImage(str(true))
    assert picture.pixelColor(0, 0).alpha() == 0
    assert picture.dotsPerMeterX() == 10_000
    wide, high = picture.width() / 10, picture.height() / 10
    text = lines.read_text()
    assert f'width="{wide:.0f}' in text or f'width="{wide:.1f}' in text
    assert 60 < wide < 140
    assert 40 < high < 120
    refused = run(main, ["picture", piece, str(tmp_path / "a.gif")])
    assert refused.exit_code == 2
    assert ".png or a .svg" in refused.output


def test_the_manual_has_no_line_that_the_typesetter_would_take_for_its_own():
    for line in manual_page(main).splitlines():
        assert not line.startswith("'")
        assert not line.startswith(".") or line[1:3] in ("TH", "SH", "TP", "B ", "I ", "RS", "RE")


def test_nothing_of_this_machine_is_in_what_ships():
    shipped = Path(__file__).parent.parent / "src" / "maglia" / "desktop" / "data"
    assert not any(os.sep + "home" in path.read_text() for path in shipped.iterdir())
