"""Man pages are those that the help makes, and the shell completes."""

import importlib.util
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from databases import sqlite_at

ROOT = Path(__file__).parents[2]


def made():
    spec = importlib.util.spec_from_file_location("make_man_pages", ROOT / "tools" / "make_man_pages.py")
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module.pages()


def test_the_man_pages_are_those_of_the_help():
    there = {path.name: path.read_text(encoding="utf-8") for path in (ROOT / "docs" / "man").glob("*.1")}
    assert there == made(), "run: python tools/make_man_pages.py"
    assert len(there) == 23


@pytest.mark.skipif(shutil.which("groff") is None, reason="no groff here")
def test_groff_has_nothing_against_them():
    for path in sorted((ROOT / "docs" / "man").glob("*.1")):
        command = ["groff", "-man", "-Tutf8", "-ww", "-z", str(path)]
        done = subprocess.run(command, capture_output=True, text=True, check=True)
        assert done.stderr == "", path.name


def completed(words, place, folder):
    environment = {
        "_PRAVIX_COMPLETE": "bash_complete", "COMP_WORDS": words, "COMP_CWORD": str(place), "PATH": "/usr/bin:/bin",
    }  # fmt: skip
    done = subprocess.run(
        [sys.executable, "-c", "import sys; sys.argv[0] = 'pravix'; from pravix.cli.main import main; main()"],
        capture_output=True, text=True, cwd=folder, env=environment,
    )  # fmt: skip
    return [line.split(",")[1] for line in done.stdout.splitlines() if "," in line]


def test_the_shell_completes_commands_options_and_columns(tmp_path):
    (tmp_path / "a.csv").write_text("drum_no,honey,honey_code\n1,Heather,h\n")
    assert completed("pravix dec", 1, tmp_path) == ["declare", "decide", "decompose"]
    assert completed("pravix keys --larg", 2, tmp_path) == ["--largest"]
    assert completed("pravix explain a.csv hon", 3, tmp_path) == ["honey", "honey_code"]
    assert completed("pravix describe a.csv text --column d", 5, tmp_path) == ["drum_no"]
    assert completed("pravix explain nothing.csv hon", 3, tmp_path) == []
    with sqlite_at(tmp_path / "flat.db") as made:
        made.execute("CREATE TABLE drums (drum_no)")
        made.execute("CREATE VIEW depots AS SELECT drum_no FROM drums")
    assert completed("pravix keys sqlite:///flat.db --table d", 4, tmp_path) == ["drums", "depots"]
    assert completed("pravix keys sqlite:///none.db --table d", 4, tmp_path) == []
    assert not (tmp_path / "none.db").exists()
