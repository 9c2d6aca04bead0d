"""A folder made by a stranger: whatever it says, it is data; it is refused in one line or used as what it is."""

import contextlib
import copy
import json
import os
import random
import shutil
from pathlib import Path

import pytest
from databases import POSTGRES, new_database, sqlite_at
from sqlalchemy import create_engine, text
from sqlalchemy.engine import make_url

from pravix.databases.known import DATABASES, database
from pravix.errors import InputError
from pravix.folder.dictionary import as_csv, as_markdown
from pravix.folder.reader import open_folder
from pravix.folder.workbook import write_workbook
from pravix.folder.writer import replace_folder
from pravix.loading.load import load_folder
from pravix.loading.side_by_side import recombined
from pravix.pictures.diagram_text import graphviz, mermaid
from pravix.proof.proving import prove_folder
from pravix.reports.report import report_markdown
from pravix.sql.schema import insert_statements, schema_statements
from pravix.validation.new_rows import stored_rows

SECRET = "the honey is under the third hive"


@pytest.fixture
def stranger(rough, tmp_path):
    """A copy of the rough demo's folder, with a way to change its design; a secret file lies beside it."""
    (tmp_path / "secret.csv").write_text(f"a,b,c\n{SECRET},1,2\n", encoding="utf-8")
    folder = tmp_path / "made"
    shutil.copytree(rough.path, folder)

    def changed(change):
        document = json.loads((folder / "design.json").read_text(encoding="utf-8"))
        change(document)
        (folder / "design.json").write_text(json.dumps(document), encoding="utf-8")
        return folder

    return changed


def used(folder, tmp_path):
    """Use a folder in every way that this program has; return all that came of it as one text."""
    opened = open_folder(folder)
    document = opened.document
    told = [json.dumps(prove_folder(folder))]
    for name in DATABASES:
        fitted = opened.fitted(database(name))
        told += [
            *schema_statements(fitted.document, database(name)),
            *insert_statements(fitted, database(name)),
        ]
    told += [mermaid(document.tables), graphviz(document.tables), as_markdown(document), as_csv(document)]
    told += [report_markdown(document, "x"), str(stored_rows(opened)[:1])]
    told += [recombined(document, [opened.design.source.columns[0]]).sql]
    write_workbook(opened, str(tmp_path / "made.xlsx"))
    load_folder(opened, f"sqlite:///{tmp_path}/made.db")
    return "\n".join(told)


def test_a_sound_folder_can_be_used_in_every_way(stranger, tmp_path):
    assert "CREATE TABLE" in used(stranger(lambda document: None), tmp_path)


@pytest.mark.parametrize(
    "file",
    [
        "../secret.csv",
        "/etc/passwd",
        "/dev/zero",
        "sub/x.csv",
        "..",
        "",
        "keeper.csv\0",
        ".hidden.csv",
        "a\\b.csv",
        7,
    ],
)
def test_files_outside_the_folder_are_not_read(stranger, file, tmp_path):
    def change(document):
        document["tables"][0]["file"] = file

    folder = stranger(change)
    with pytest.raises(InputError, match=r"design\.json in .* is no design"):
        used(folder, tmp_path)


@pytest.mark.parametrize("how", ["link", "device", "folder", "pipe"])
def test_what_is_no_plain_file_is_not_read(stranger, how, tmp_path):
    folder = stranger(lambda document: None)
    name = json.loads((folder / "design.json").read_text(encoding="utf-8"))["tables"][0]["file"]
    (folder / name).unlink()
    if how == "link":
        (folder / name).symlink_to(tmp_path / "secret.csv")
    elif how == "device":
        (folder / name).symlink_to("/dev/zero")
    elif how == "folder":
        (folder / name).mkdir()
    else:
        os.mkfifo(folder / name)
    with pytest.raises(InputError, match="cannot be read: it is no plain file"):
        used(folder, tmp_path)
    (folder / "design.json").unlink()
    (folder / "design.json").symlink_to("/dev/zero")
    with pytest.raises(InputError, match=r"holds no design\.json"):
        open_folder(folder)


def test_no_statement_of_the_folder_is_carried_out(stranger, tmp_path):
    folder = stranger(lambda document: None)
    other = tmp_path / "other.db"
    with sqlite_at(other) as there:
        there.execute("CREATE TABLE hives (a)")
    planted = tmp_path / "planted.db"
    with (folder / "schema.sql").open("a", encoding="utf-8") as file:
        file.write(
            f"ATTACH '{other}' AS o; DROP TABLE o.hives; ATTACH '{planted}' AS p; CREATE TABLE p.x (a);\n"
        )
        file.write(
            "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT COUNT(*) FROM n;\n"
        )
    claims = prove_folder(folder)
    assert (False, "schema.sql is not the script of this design: write the folder again.") in claims
    assert not planted.exists()
    with sqlite_at(other) as there:
        assert there.execute("SELECT COUNT(*) FROM hives").fetchone() == (0,)


SQL = "1); DROP TABLE precious; COPY (SELECT 1) TO PROGRAM 'touch /tmp/pravix-was-here'; --"


def planted_sql(document):
    """Yield changes that put SQL into every value that becomes part of a statement."""

    def in_range(document):
        check = next(c for t in document["tables"] for c in t["checks"] if c["kind"] == "range")
        check |= {"made": True, "values": ["1", SQL]}

    def in_values(document):
        check = next(c for t in document["tables"] for c in t["checks"] if c["kind"] == "values")
        check["values"] = [*check["values"], SQL]

    def in_default(document):
        table = document["tables"][0]
        column = next(c for c in table["columns"] if c["kind"] in ("text", "code"))["name"]
        table["checks"].append(
            {
                "column": column,
                "kind": "default",
                "values": [SQL],
                "rows": 1,
                "exceptions": 0,
                "made": True,
                "told": "",
            }
        )

    def in_meaning(document):
        document["tables"][0]["meaning"] = document["tables"][0]["columns"][0]["meaning"] = f"'{SQL}"

    def in_separator(document):
        next(one for one in document["rebuild"] if one["kind"] == "list")["separator"] = f"'{SQL}"

    def in_flag(document):
        next(one for one in document["rebuild"] if one["kind"] == "flag")["yes"] = f"'{SQL}"

    def in_position(document):
        next(one for one in document["rebuild"] if one["kind"] == "family")["at"] = SQL

    def in_scale(document):
        next(one for one in document["rebuild"] if one["kind"] == "computed")["scale"] = SQL

    def in_action(document):
        next(t for t in document["tables"] if t["foreign_keys"])["foreign_keys"][0]["on_delete"] = SQL

    def in_a_name(document):
        name = f'"{SQL}'
        table = next(one for one in document["tables"] if one["name"] == document["main"])
        table["name"] = document["main"] = name
        for other in document["tables"]:
            for link in other["foreign_keys"]:
                if link["references"]["table"] == "main":
                    link["references"]["table"] = name

    return [value for name, value in locals().items() if name.startswith("in_")]


@pytest.mark.parametrize("change", planted_sql({}), ids=lambda change: change.__name__)
def test_sql_in_a_design_is_data_in_postgresql(stranger, change):
    folder = stranger(change)
    Path("/tmp/pravix-was-here").unlink(missing_ok=True)
    with new_database(POSTGRES) as url:
        engine = create_engine(make_url(url).set(drivername="postgresql+psycopg"))
        with engine.begin() as connection:
            connection.execute(text("CREATE TABLE precious (a INTEGER)"))
        with contextlib.suppress(InputError):
            load_folder(open_folder(folder), url)
        with engine.begin() as connection:
            assert connection.execute(text("SELECT COUNT(*) FROM precious")).scalar() == 0
        engine.dispose()
    assert not Path("/tmp/pravix-was-here").exists()


def test_a_cell_of_a_number_column_is_quoted_in_a_script(stranger):
    folder = stranger(lambda document: None)
    document = json.loads((folder / "design.json").read_text(encoding="utf-8"))
    table = next(t for t in document["tables"] if any(c["kind"] == "integer" for c in t["columns"]))
    place = next(n for n, c in enumerate(table["columns"]) if c["kind"] == "integer")
    lines = (folder / table["file"]).read_text(encoding="utf-8").splitlines()
    cells = lines[1].split(",")
    cells[place] = "1); DROP TABLE precious"
    (folder / table["file"]).write_text(
        "\n".join([lines[0], ",".join(cells), *lines[2:]]) + "\n", encoding="utf-8"
    )
    for name in DATABASES:
        kind = database(name)
        script = "\n".join(insert_statements(open_folder(folder).fitted(kind), kind))
        assert "'1); DROP TABLE precious'" in script


@pytest.mark.parametrize(
    ("change", "told"),
    [
        (lambda d: d.update(version=99), "version is 99"),
        (lambda d: d.pop("tables"), "tables"),
        (lambda d: d["tables"].append(copy.deepcopy(d["tables"][0])), "comes twice"),
        (lambda d: d["tables"][0]["primary_key"].append("nowhere"), "the key .*nowhere"),
        (lambda d: d["flat"]["types"].pop(), "number of types"),
        (lambda d: d["source"]["columns"].append("nowhere"), "number of types|nowhere"),
        (lambda d: d.update(main="nowhere"), "main table nowhere"),
    ],
)
def test_what_does_not_belong_together_is_told(stranger, change, told, tmp_path):
    with pytest.raises(InputError, match=told):
        used(stranger(change), tmp_path)


def test_columns_computed_in_a_circle_are_refused(stranger, tmp_path):
    def change(document):
        one = next(entry for entry in document["rebuild"] if entry["kind"] == "computed")
        other = copy.deepcopy(one) | {
            "column": one["columns"][0],
            "columns": [one["column"]] * len(one["columns"]),
        }
        document["rebuild"].append(other)

    with pytest.raises(InputError, match="built from itself"):
        used(stranger(change), tmp_path)


def test_a_deep_document_is_refused(stranger, tmp_path):
    folder = stranger(lambda document: None)
    (folder / "design.json").write_text("[" * 100_000 + "]" * 100_000, encoding="utf-8")
    with pytest.raises(InputError, match=r"design\.json"):
        used(folder, tmp_path)


STRANGE = [
    None,
    -1,
    10**30,
    1.5,
    "",
    "x" * 70_000,
    [],
    {},
    True,
    "../x",
    "\0",
    [[[[]]]],
    "\x1b[31m",
    "' OR 1=1 --",
]


def damaged(document, random):
    """Change one place anywhere in a document to something strange, or take it away."""
    place, path = document, []
    while isinstance(place, dict | list) and place and (len(path) < 2 or random.random() < 0.8):
        key = random.choice(list(place) if isinstance(place, dict) else range(len(place)))
        path.append(key)
        place = place[key]
    holder = document
    for key in path[:-1]:
        holder = holder[key]
    if random.random() < 0.2:
        del holder[path[-1]]
    else:
        holder[path[-1]] = random.choice(STRANGE)
    return path


@pytest.mark.parametrize("seed", range(10))
def test_random_damage_is_told_in_one_line_and_touches_nothing_outside(stranger, seed, tmp_path):
    original = stranger(lambda document: None)
    sound = json.loads((original / "design.json").read_text(encoding="utf-8"))
    chance = random.Random(seed)
    around = sorted(tmp_path.iterdir())
    for number in range(10):
        document = copy.deepcopy(sound)
        path = damaged(document, chance)
        (original / "design.json").write_text(json.dumps(document), encoding="utf-8")
        out = tmp_path / "out"
        out.mkdir()
        try:
            told = used(original, out)
        except InputError as error:
            told = f"{error}{error.hint}"
        assert SECRET not in told, (seed, number, path)
        shutil.rmtree(out)
    assert sorted(tmp_path.iterdir()) == around


def test_a_folder_within_an_old_folder_of_results_is_not_removed(rough, stranger):
    def change(document):
        document["tables"][0]["file"] = "precious.csv"

    folder = stranger(change)
    (folder / "precious.csv").mkdir()
    (folder / "precious.csv" / "x").write_text("x", encoding="utf-8")
    known = {entry.name for entry in folder.iterdir()}
    with pytest.raises(InputError, match=r"what Pravix did not write there: precious\.csv"):
        replace_folder(folder, lambda made: None, lambda _: known)
    assert (folder / "precious.csv" / "x").exists()


def test_control_characters_do_not_reach_a_page_or_a_diagram(tmp_path):
    from folders import folder_of

    from pravix.pictures.diagram import write_diagram
    from pravix.relation.relation import Relation
    from pravix.reports.report import report_html

    names = ["drum\x1b[2J", "honey\x07", "keeper\x9b31m"]
    rows = [[str(n), f"H{n % 3}\x1b]0;x\x07", f"k{n % 3}"] for n in range(30)]
    folder = folder_of(
        Relation.from_rows(names, rows), tmp_path / "made", accepted=["honey\x07 -> keeper\x9b31m"]
    )
    write_diagram(folder.document.tables, str(tmp_path / "made.svg"))
    drawn = (tmp_path / "made.svg").read_text(encoding="utf-8")
    for page in (drawn, report_html(folder.document, "x"), mermaid(folder.document.tables)):
        assert not {mark for mark in page if ord(mark) < 32} - {"\n", "\t"}
        assert "\x9b" not in page
    from xml.etree import ElementTree

    ElementTree.fromstring(drawn)
    write_diagram(folder.document.tables, str(tmp_path / "again.svg"))
    assert (tmp_path / "again.svg").read_text(encoding="utf-8") == drawn
