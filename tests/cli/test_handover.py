"""The commands that work on a folder, with the installed program."""

import tomllib

import openpyxl
import pytest
from databases import sqlite_at


@pytest.fixture
def made(pravix, sheet):
    assert pravix("decompose", sheet, "--out", "made").status == 0
    return "made"


def test_the_folder_explains_itself(made, tmp_path):
    text = (tmp_path / made / "README.md").read_text()
    for path in (tmp_path / made).iterdir():
        assert path.name.replace("_", "\\_") in text or path.name in text


def test_load_into_sqlite_and_look_at_it(pravix, made, tmp_path):
    done = pravix("load", made, "sqlite:///honey.db")
    assert done.status == 0
    assert "sqlite3 -header -column honey.db 'SELECT * FROM flat LIMIT 10'" in done.out
    with sqlite_at(tmp_path / "honey.db") as database:
        assert database.execute("SELECT COUNT(*) FROM flat").fetchone() == (48,)
    again = pravix("load", made, "sqlite:///honey.db")
    assert (again.status, again.out) == (2, "")
    assert "already" in again.err
    document = pravix("load", made, "sqlite:///honey.db", "--replace", "--json").document
    assert document["views"] == {"flat": 48}


def test_sql_for_each_database(pravix, made, tmp_path):
    for name in ("sqlite", "postgresql", "mysql", "mariadb", "sqlserver"):
        assert pravix("sql", made, "--for", name).out.count("CREATE TABLE") == 3
    assert pravix("sql", made, "--rows", "--out", "all.sql").status == 0
    connection = sqlite_at(":memory:")
    connection.executescript((tmp_path / "all.sql").read_text())
    assert connection.execute("SELECT COUNT(*) FROM flat").fetchone() == (48,)


def test_columns_side_by_side(pravix, made):
    shown = pravix("recombine", made, "drum_no", "keeper", "--run")
    assert "1 join: drum - keeper." in shown.out
    assert "Milo" in shown.out
    document = pravix("recombine", made, "drum_no", "keeper", "--run", "--json").document
    assert document["joins"] == 1
    assert len(document["rows"]) == 16
    assert pravix("recombine", made, "nothing").status == 2


@pytest.mark.parametrize("name", ["d.svg", "d.png", "d.mmd", "d.dot", "d.txt", "d.html"])
def test_diagrams(pravix, made, tmp_path, name):
    assert pravix("diagram", made, name).status == 0
    assert (tmp_path / name).stat().st_size > 100


def test_other_outputs(pravix, made, tmp_path):
    assert pravix("diagram", made, "-").out.startswith("keeper(")
    assert pravix("dictionary", made).out.startswith("# Data dictionary")
    for command, name in [
        ("dictionary", "d.md"),
        ("dictionary", "d.csv"),
        ("report", "r.html"),
        ("report", "r.md"),
    ]:
        assert pravix(command, made, name).status == 0
        assert (tmp_path / name).stat().st_size > 400
    assert pravix("workbook", made, "w.xlsx").status == 0
    assert openpyxl.load_workbook(tmp_path / "w.xlsx").sheetnames == ["keeper", "drum", "line"]


@pytest.mark.parametrize(
    ("arguments", "told"),
    [
        (["diagram", "made", "d.gif"], "no kind of diagram"),
        (["report", "made", "r.pdf"], "neither HTML nor Markdown"),
        (["dictionary", "made", "d.pdf"], "neither Markdown nor CSV"),
        (["workbook", "made", "w.ods"], "no workbook"),
        (["workbook", "made", "no/such/w.xlsx"], "cannot be written"),
        (["load", "made", "nonsense"], "URL of the database cannot be read"),
        (["sql", "."], "holds no design.json"),
    ],
)
def test_what_cannot_be_made_is_one_line(pravix, made, arguments, told):
    done = pravix(*arguments)
    assert done.status == 2
    assert told in done.err
    assert len(done.err.splitlines()) <= 2


def test_meanings_are_kept_and_come_back(pravix, sheet, tmp_path):
    assert pravix("describe", sheet, "who looks after the drum", "--column", "keeper").status == 0
    assert (
        pravix("describe", sheet, "the first of all", "--column", "keeper_no", "--value", "K-10").status == 0
    )
    assert pravix("describe", sheet, "a barrel", "--made-table", "drum").status == 0
    assert pravix("describe", sheet, "who looks after it", "--column", "keeper").status == 0
    ledger = tomllib.loads((tmp_path / "drums.ledger.toml").read_text())
    assert [entry["text"] for entry in ledger["meaning"]] == [
        "who looks after it",
        "the first of all",
        "a barrel",
    ]
    pravix("decompose", sheet, "--out", "made")
    text = pravix("dictionary", "made").out
    assert "who looks after it" in text
    assert "K-10: the first of all" in text
    assert "a barrel. 16 rows" in text
    assert "5 columns without a meaning: line" in " ".join(pravix("describe", sheet).out.split())


@pytest.mark.parametrize(
    ("options", "told"),
    [
        (["x"], "say of what this is the meaning"),
        (["x", "--column", "kepper"], "has no column kepper"),
        (["x", "--column", "keeper", "--value", "Nobody"], "keeper is nowhere Nobody"),
        (["x", "--made-table", "barrel"], "the design has no table barrel"),
    ],
)
def test_a_meaning_of_nothing_is_refused(pravix, sheet, tmp_path, options, told):
    done = pravix("describe", sheet, *options)
    assert done.status == 2
    assert told in done.err
    assert not (tmp_path / "drums.ledger.toml").exists()


def test_cells_that_a_spreadsheet_could_run(pravix, tmp_path):
    rows = "\n".join(f"{n},K{n % 4},=x{n % 4}" for n in range(40))
    (tmp_path / "f.csv").write_text(f"line_no,keeper_no,keeper_note\n{rows}\n")
    assert pravix("decompose", "f.csv", "--out", "made").status == 0
    made = next(path for path in (tmp_path / "made").glob("*.csv") if "=x1" in path.read_text())
    assert "'=x1" not in made.read_text()
    assert pravix("decompose", "f.csv", "--out", "made", "--harmless").status == 0
    assert "'=x1" in made.read_text()


@pytest.mark.parametrize("shell", ["bash", "zsh", "fish"])
def test_completion(pravix, shell):
    assert "pravix" in pravix(_PRAVIX_COMPLETE=f"{shell}_source").out


def test_completion_of_a_command(pravix):
    found = pravix(_PRAVIX_COMPLETE="bash_complete", COMP_WORDS="pravix de", COMP_CWORD="1").out
    assert {"plain,decide", "plain,decompose", "plain,describe"} <= set(found.split())


def test_a_new_file_is_checked_and_what_is_good_is_loaded(pravix, sheet, made, tmp_path):
    pravix("load", made, "sqlite:///honey.db")
    lines = (tmp_path / sheet).read_text().splitlines()
    new = [
        lines[0],
        lines[1],
        "901,300,K-10,Ada,0421 333,",
        "902,301,K-10,Ada,0421 999,",
        "903,302,K-19,Ole,,",
    ]
    (tmp_path / "new.csv").write_text("\n".join(new) + "\n")
    done = pravix("check", made, "new.csv", "--load", "sqlite:///honey.db", "--keep", "kept.csv")
    assert done.status == 1
    assert "4 rows: 2 good, 1 to look at, 1 row there already." in done.out
    assert "keeper_no K-10 now has phone 0421 999 (row 4)" in done.out
    kept = (tmp_path / "kept.csv").read_text().splitlines()
    assert kept[0] == lines[0] + ",reason"
    assert kept[1].startswith("902,301,K-10,Ada,0421 999,,")
    with sqlite_at(tmp_path / "honey.db") as database:
        assert database.execute("SELECT COUNT(*) FROM flat").fetchone() == (50,)
    (tmp_path / "good.csv").write_text("\n".join([lines[0], "904,300,K-10,Ada,0421 333,"]) + "\n")
    document = pravix("check", made, "good.csv", "--rejudge", "--json")
    assert document.status == 0
    assert document.document["findings"] == []
    assert document.document["standings"] == []
    assert pravix("check", made, "good.csv", "--keep", "kept.csv").status == 2
