"""What was wished about the cells of the first file holds of later ones, until something else is wished."""

import json

import pytest
from databases import sqlite_at

HEADER = "drum_no,keeper,village,kg"


def sheet(first, last):
    """Drums in order of their keepers, who are written once for five; some weights are not known."""
    lines = [
        f"D-{n:03d},{f'Ada {n // 5}' if n % 5 == 0 else ''},{' Ost ' if n // 5 % 2 else 'Kelder'},"
        f"{'NA' if n % 7 == 3 else f'{n % 31}.5'}"
        for n in range(first, last)
    ]
    return "\n".join([HEADER, *lines, ""])


@pytest.fixture
def folder(pravix, tmp_path):
    (tmp_path / "may.csv").write_text(sheet(0, 100), encoding="utf-8")
    (tmp_path / "june.csv").write_text(sheet(100, 150), encoding="utf-8")
    wishes = ["--fill", "keeper", "--blank", "kg=NA", "--keep-spaces"]
    done = pravix("decompose", "may.csv", *wishes, "--out", "tables")
    assert done.status == 0, done.err
    return tmp_path


def held(pravix, folder, *wishes):
    done = pravix("check", "tables", "june.csv", "--json", *wishes)
    assert done.status in (0, 1), done.err
    return done.document


def test_a_second_month_is_read_as_the_first(pravix, folder):
    told = json.loads((folder / "tables" / "design.json").read_text(encoding="utf-8"))
    assert told["findings"]["reading"] == {"fill": ["keeper"], "blank": ["kg=NA"], "keep_spaces": True}
    done = pravix("check", "tables", "june.csv")
    assert (done.status, done.err) == (0, "")
    assert "50 rows: 50 good" in done.out
    assert "NA read as a blank in 7 cells of kg" in " ".join(done.out.split())


def test_what_is_wished_now_goes_before(pravix, folder):
    assert held(pravix, folder)["good"] == 50
    told = held(pravix, folder, "--blank", "kg=n/a")
    assert told["good"] == 43
    assert all("NA" in finding["text"] for finding in told["findings"])


def test_a_folder_that_says_nothing_reads_as_it_comes(pravix, folder):
    path = folder / "tables" / "design.json"
    told = json.loads(path.read_text(encoding="utf-8"))
    del told["findings"]["reading"]
    path.write_text(json.dumps(told), encoding="utf-8")
    assert held(pravix, folder)["good"] < 10


def test_the_flat_table_of_a_database_is_read_as_the_file_was(pravix, tmp_path):
    rows = [(f"D-{n:03d}", f"K-{n % 9}", f"Ada {n % 9}", "NA" if n % 7 == 3 else str(n)) for n in range(90)]
    with sqlite_at(tmp_path / "flat.db") as connection:
        connection.execute("CREATE TABLE arrived (drum_no TEXT, keeper_no TEXT, keeper TEXT, kg TEXT)")
        connection.executemany("INSERT INTO arrived VALUES (?, ?, ?, ?)", rows)
    url = "sqlite:///flat.db"
    for command in (
        ["decompose", url, "--table", "arrived", "--blank", "NA", "--out", "tables"],
        ["load", "tables", url, "--from", "arrived"],
        ["prove", "tables", "--in", url, "--from", "arrived"],
    ):
        done = pravix(*command)
        assert done.status == 0, (command, done.out, done.err)
    with sqlite_at(tmp_path / "flat.db") as connection:
        assert connection.execute("SELECT COUNT(*) FROM flat WHERE kg IS NULL").fetchone() == (13,)
    script = pravix("sql", "tables", "--for", "postgresql", "--from", "arrived")
    assert "'NA'" in script.out
