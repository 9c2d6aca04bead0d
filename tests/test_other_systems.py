"""What another operating system does otherwise: names of files, paths, locks, and what is missing there."""

from pathlib import PureWindowsPath

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pravix import locking, memory
from pravix.folder.writer import file_names
from pravix.ledger.recording import record
from pravix.ledger.wishes import Arrangement
from pravix.sources.connecting import is_url

DEVICES = {"con", "prn", "aux", "nul", *(f"{kind}{n}" for kind in ("com", "lpt") for n in range(10))}
FORBIDDEN = set('<>:"/\\|?*') | set(map(chr, range(32)))


@given(
    st.lists(st.text(max_size=30) | st.sampled_from(["con", "NUL", "aux.x", "a.", "b ", "C:drum", "..\\up"]))
)
def test_the_files_of_tables_have_names_that_windows_takes(tables):
    names = file_names(tables, ".csv")
    assert len({name.lower() for name in names}) == len(tables)
    for name in names:
        path = PureWindowsPath("C:/out", name)
        assert (path.name, path.parent) == (name, PureWindowsPath("C:/out"))
        assert not FORBIDDEN & set(name)
        assert name.partition(".")[0].lower() not in DEVICES
        assert not name.removesuffix(".csv").endswith((".", " "))


@pytest.mark.parametrize(
    "path", [r"C:\data\drums.csv", "c:/data/drums.csv", r"\\server\share\drums.csv", "D:drums.csv"]
)
def test_a_path_with_a_drive_is_no_url(path):
    assert not is_url(path)


def test_without_locks_a_ledger_is_written_and_no_file_is_held_open(tmp_path, monkeypatch):
    monkeypatch.setattr(locking, "fcntl", None)
    path = tmp_path / "drums.ledger.toml"
    with locking.sole_user(path):
        assert path.read_bytes() == b""
    assert not path.exists()
    for name in ("village", "honey_code"):
        record(path, arrangements=[Arrangement("together", (name,))])
    assert path.read_text().count("[[arrange]]") == 2
    assert [one.name for one in tmp_path.iterdir()] == ["drums.ledger.toml"]


def test_a_system_that_does_not_tell_its_memory_is_taken_to_have_some(monkeypatch):
    def missing(path, *further, **options):
        raise FileNotFoundError(path)

    monkeypatch.setattr(memory.Path, "read_text", missing)
    assert memory.free_bytes() >= 1 << 30
    assert memory.resident_bytes() == 0


def test_where_the_c_library_gives_nothing_back_nothing_is_asked_of_it(monkeypatch):
    asked = []
    monkeypatch.setattr(memory.ctypes, "CDLL", lambda name: asked.append(name) or object())
    memory.give_back()
    memory.shared_by_threads()
    assert asked == [None, None]
