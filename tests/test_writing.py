"""Files and folders come into being whole or not at all, whatever is there and whoever else writes."""

import os
import subprocess
import sys
import threading
from pathlib import Path

import pytest

from pravix import writing
from pravix.errors import InputError
from pravix.locking import sole_user, unfinished
from pravix.writing import new_file, replace_folder, write_text


def test_a_link_is_followed_and_permissions_are_kept(tmp_path):
    shared = tmp_path / "shared.toml"
    shared.write_text("old", encoding="utf-8")
    shared.chmod(0o640)
    link = tmp_path / "link.toml"
    link.symlink_to(shared)
    write_text(link, ["new"])
    assert link.is_symlink()
    assert shared.read_text(encoding="utf-8") == "new"
    assert shared.stat().st_mode & 0o777 == 0o640


@pytest.mark.parametrize("path", ["/dev/null", "."])
def test_what_is_no_file_is_not_replaced(path):
    with pytest.raises(InputError, match="is no file"):
        write_text(Path(path), ["x"])
    assert not Path("/dev/null").is_file()


def test_a_name_of_255_bytes_can_be_written(tmp_path):
    path = tmp_path / ("ö" * 125 + ".text")
    write_text(path, ["x"])
    assert [entry.name for entry in tmp_path.iterdir()] == [path.name]


def test_an_error_leaves_the_old_file_and_no_other(tmp_path):
    path = tmp_path / "a.txt"
    write_text(path, ["old"])

    def parts():
        yield "new"
        raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        write_text(path, parts())
    assert path.read_text(encoding="utf-8") == "old"
    assert os.listdir(tmp_path) == ["a.txt"]


@pytest.mark.parametrize("second_names", [True, False])
def test_a_fresh_file_never_takes_the_place_of_another(tmp_path, second_names, monkeypatch):
    if not second_names:
        monkeypatch.setattr(os, "link", lambda *_: (_ for _ in ()).throw(OSError(1, "no second names here")))
    path = tmp_path / "made.db"

    def overtaken():
        with new_file(path, fresh=True) as made:
            made.write_text("mine", encoding="utf-8")
            path.write_text("theirs", encoding="utf-8")

    with pytest.raises(InputError, match="made by another run meanwhile"):
        overtaken()
    assert path.read_text(encoding="utf-8") == "theirs"
    with pytest.raises(InputError, match="is there already"), new_file(path, fresh=True):
        pass
    path.unlink()
    with new_file(path, fresh=True) as made:
        made.write_text("mine", encoding="utf-8")
    assert path.read_text(encoding="utf-8") == "mine"
    assert os.listdir(tmp_path) == ["made.db"]


def test_what_a_killed_run_left_is_removed_and_told_but_not_what_another_holds(tmp_path, caplog):
    path = tmp_path / "made.db"
    left = tmp_path / ".made.unfinished-0badcafe.db"
    left.write_text("half", encoding="utf-8")
    with unfinished(path) as mine:
        assert not left.exists()
        assert "which a run that was stopped had left" in caplog.text
        caplog.clear()
        with unfinished(path) as other:
            assert mine.exists()
            assert other.exists()
    assert caplog.text == ""
    assert os.listdir(tmp_path) == []


@pytest.mark.parametrize("exchanging", [True, False])
def test_a_folder_is_replaced_and_its_link_stays(tmp_path, exchanging, monkeypatch):
    if not exchanging:
        monkeypatch.setattr(writing, "_exchanged", lambda *_: False)
    place, link = tmp_path / "place", tmp_path / "link"
    place.mkdir(mode=0o750)
    (place / "old.txt").write_text("old", encoding="utf-8")
    link.symlink_to(place)
    replace_folder(link, lambda made: (made / "new.txt").touch(), lambda _: {"old.txt"})
    assert link.is_symlink()
    assert os.listdir(place) == ["new.txt"]
    assert place.stat().st_mode & 0o777 == 0o750
    assert sorted(os.listdir(tmp_path)) == ["link", "place"]


def test_a_second_rename_that_fails_puts_the_old_folder_back(tmp_path, monkeypatch):
    monkeypatch.setattr(writing, "_exchanged", lambda *_: False)
    place, real = tmp_path / "place", os.rename
    place.mkdir()

    def rename(one, other):
        if Path(one).name.startswith(".place.unfinished"):
            raise OSError(5, "the disk is gone")
        real(one, other)

    monkeypatch.setattr(os, "rename", rename)
    with pytest.raises(InputError, match="the disk is gone"):
        replace_folder(place, lambda made: (made / "new.txt").touch(), lambda _: set())
    assert os.listdir(tmp_path) == ["place"]


def test_a_folder_that_a_killed_run_took_away_is_put_back(tmp_path, caplog):
    (tmp_path / ".place.before").mkdir()
    (tmp_path / ".place.before" / "old.txt").touch()
    replace_folder(tmp_path / "place", lambda made: (made / "new.txt").touch(), lambda _: {"old.txt"})
    assert "put back" in caplog.text
    assert os.listdir(tmp_path / "place") == ["new.txt"]
    assert os.listdir(tmp_path) == ["place"]


def test_one_at_a_time_changes_a_file(tmp_path):
    path, seen = tmp_path / "count", []

    def add():
        for _ in range(50):
            with sole_user(path):
                number = int(path.read_text(encoding="utf-8") or 0)
                write_text(path, [str(number + 1)])
                seen.append(number)

    threads = [threading.Thread(target=add) for _ in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(seen) == list(range(200))


def test_a_file_begun_only_to_lock_it_is_not_left(tmp_path):
    with sole_user(tmp_path / "count"):
        pass
    assert os.listdir(tmp_path) == []


def test_a_full_disk_is_one_line_and_leaves_nothing(tmp_path):
    """In a process that may write 4 KiB: what does not fit is refused by the system in the midst of writing."""
    code = (
        "import resource, signal, sys; from pathlib import Path; from pravix.writing import write_text\n"
        "signal.signal(signal.SIGXFSZ, signal.SIG_IGN); resource.setrlimit(resource.RLIMIT_FSIZE, (4096, 4096))\n"
        "write_text(Path(sys.argv[1]), ['x' * 10_000])"
    )
    path = tmp_path / "a.txt"
    path.write_text("old", encoding="utf-8")
    run = subprocess.run([sys.executable, "-c", code, str(path)], capture_output=True, text=True, check=False)
    assert "cannot be written: File too large" in run.stderr
    assert path.read_text(encoding="utf-8") == "old"
    assert os.listdir(tmp_path) == ["a.txt"]
