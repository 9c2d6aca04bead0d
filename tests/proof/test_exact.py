"""Numbers are compared exactly, and a folder is proved by what is in it, to the last digit."""

import json
import random
from decimal import Decimal

import pytest
from databases import DUCKDB, MARIADB, POSTGRES, new_database, sqlite_at
from folders import folder_of
from hypothesis import given
from hypothesis import strategies as st
from proofs import of_cells, of_rows

from pravix.databases.known import DATABASES, database
from pravix.document.row_hashes import Form, by_text, by_value, of_relation
from pravix.errors import InputError
from pravix.folder.reader import open_folder
from pravix.loading.load import load_folder
from pravix.loading.side_by_side import recombined
from pravix.proof.proving import prove_folder
from pravix.relation.relation import Relation
from pravix.relation.types import Kind, comparable
from pravix.sql.schema import schema_statements

LONG = [f"{583339848934428427 + n}.{n % 5}5" for n in range(30)]


def failing(folder):
    return [text for holds, text in prove_folder(folder.path) if not holds]


@pytest.fixture
def long(tmp_path):
    rows = [[f"D{n}", LONG[n], f"1.{['1', '10', '2', '20'][n % 4]}"] for n in range(30)]
    return folder_of(Relation.from_rows(["drum", "seal", "version"], rows), tmp_path / "made")


def test_a_column_whose_texts_differ_where_its_numbers_agree_is_a_code(long):
    kinds = {column.name: column.kind.value for table in long.tables for column in table.columns}
    assert kinds == {"drum": "code", "seal": "decimal", "version": "code"}
    assert failing(long) == []


@pytest.mark.parametrize(
    "server", [None, POSTGRES, MARIADB, DUCKDB], ids=["sqlite", "postgresql", "mariadb", "duckdb"]
)
def test_long_numbers_are_stored_to_the_last_digit(long, server, tmp_path):
    if server is None:
        loaded = load_folder(long, f"sqlite:///{tmp_path}/a.db")
        with sqlite_at(tmp_path / "a.db") as there:
            found = [cell for (cell,) in there.execute("SELECT seal FROM flat")]
        assert [note.split(" is ")[0] for note in loaded.notes] == ["drum.seal"]
        assert "keeps 15" in loaded.notes[0]
    else:
        from sqlalchemy import create_engine, text

        with new_database(server) as url:
            assert load_folder(long, url).notes == ()
            driver = url.replace("postgresql://", "postgresql+psycopg://").replace(
                "mariadb://", "mariadb+pymysql://"
            )
            engine = create_engine(driver)
            with engine.connect() as connection:
                found = [cell for (cell,) in connection.execute(text("SELECT seal FROM flat"))]
            engine.dispose()
    assert sorted(map(Decimal, found)) == sorted(map(Decimal, LONG))


@pytest.mark.parametrize(
    ("old", "new"), [("583339848934428427.05", "583339848934428427.06"), ("D3,", "D3 ,")]
)
def test_a_digit_or_a_space_changed_by_hand_is_noticed(long, old, new, tmp_path):
    file = long.path / long.tables[0].file
    text = file.read_text(encoding="utf-8")
    assert old in text
    file.write_text(text.replace(old, new), encoding="utf-8")
    assert any("not to those of the file: the first that differs is line" in told for told in failing(long))
    with pytest.raises(InputError, match="does not give back the rows"):
        load_folder(long, f"sqlite:///{tmp_path}/a.db")


def test_a_number_written_otherwise_is_noticed_though_its_value_is_the_same(tmp_path):
    rows = [[f"D{n}", f"{n}.50"] for n in range(12)]
    folder = folder_of(Relation.from_rows(["drum", "kg"], rows), tmp_path / "made")
    file = folder.path / folder.tables[0].file
    file.write_text(file.read_text(encoding="utf-8").replace("3.50", "3.5"), encoding="utf-8")
    assert failing(folder) == [
        "The tables join to 12 rows, but not to those of the file: a cell is written otherwise."
    ]


def test_what_a_database_would_round_while_it_computes_is_refused_before_it_loads(tmp_path):
    from pravix.first_normal_form.answer import Answer

    rows = [[f"D{n}", f"{10**15 + n}.25", f"{n + 1}.5", str(Decimal(f"{10**15 + n}.25") + Decimal(f"{n + 1}.5"))]
            for n in range(30)]  # fmt: skip
    relation = Relation.from_rows(["drum", "gross", "tare", "total"], rows)
    folder = folder_of(relation, tmp_path / "made", [Answer("computed: total", "leave out")])
    assert any(
        "Not tried in SQLite, which would round: total is computed from gross" in t
        for _, t in prove_folder(folder.path)
    )
    assert failing(folder) == []
    with pytest.raises(
        InputError, match="cannot do this exactly: total is computed from gross, whose numbers may have 20"
    ):
        load_folder(folder, f"sqlite:///{tmp_path}/a.db")
    assert not (tmp_path / "a.db").exists()
    with new_database(POSTGRES) as url:
        assert load_folder(folder, url).views == {"flat": 30}


@pytest.mark.parametrize(
    ("change", "told"),
    [
        (lambda text: text + text.splitlines()[-1] + "\n", "stands in line"),
        (
            lambda text: text + "K-999," + ",".join(text.splitlines()[-1].split(",")[1:]) + "\n",
            r"holds 25 rows, not 24",
        ),
        (lambda text: text.replace("keeper_no,", "keeper,", 1), "line 1: the columns are not"),
        (lambda text: text.replace("K-1", "", 1), "a blank cannot stand in|not to those"),
    ],
)
def test_a_broken_folder_is_not_passed(rough, change, told, tmp_path):
    import re
    import shutil

    shutil.copytree(rough.path, tmp_path / "made")
    file = tmp_path / "made" / next(table.file for table in rough.tables if table.name == "keeper")
    file.write_text(change(file.read_text(encoding="utf-8")), encoding="utf-8")
    assert any(re.search(told, text) for text in failing(open_folder(tmp_path / "made")))


def test_a_script_without_its_constraints_is_not_passed(rough, tmp_path):
    import re
    import shutil

    shutil.copytree(rough.path, tmp_path / "made")
    file = tmp_path / "made" / "schema.sql"
    file.write_text(
        re.sub(r",\s*PRIMARY KEY \([^)]*\)", "", file.read_text(encoding="utf-8")), encoding="utf-8"
    )
    assert failing(open_folder(tmp_path / "made")) == [
        "schema.sql is not the script of this design: write the folder again."
    ]


NUMBERS = st.decimals(allow_nan=False, allow_infinity=False, places=2, min_value=-(10**17), max_value=10**17)


@given(NUMBERS, NUMBERS)
def test_two_numbers_have_one_mark_only_if_they_are_equal(one, other):
    one, other = one + 0, other + 0  # No minus zero: it is zero.
    form = Form.DECIMAL

    def mark(cell):
        return of_rows([[cell]], [form]).mark

    assert (mark(str(one)) == mark(str(other))) is (one == other)
    assert mark(one) == mark(str(one)) == mark(f"{one}0") == of_cells([[str(one)]], [form]).mark
    assert (mark(float(one)) == mark(str(one))) is (Decimal(repr(float(one))) == one)


@given(st.lists(st.sampled_from(["1.5", "1.50", "0", "-0", "12", "", "7.25"]), min_size=1))
def test_as_written_every_text_counts(texts):
    relation = Relation.from_rows(["n"], [[text] for text in texts])
    forms = by_value([Kind.DECIMAL])
    assert (
        of_relation(relation, forms).mark
        == of_rows([[comparable(t, numeric=True)] for t in texts], forms).mark
    )
    changed = [text + "0" if "." in text else text for text in texts]
    same = (
        of_cells([changed], by_text([Kind.DECIMAL])).mark == of_cells([texts], by_text([Kind.DECIMAL])).mark
    )
    assert same is (changed == texts)
    assert of_cells([changed], forms).mark == of_cells([texts], forms).mark


@pytest.mark.parametrize("name", [name for name in DATABASES if database(name).keeps_rules])
def test_names_of_indexes_differ_however_long_the_names_of_columns_are(name, tmp_path):
    """Names of 63 bytes that are fewer letters, and ones that differ at their end only."""
    long = ["ö" * 31 + "a", "ö" * 31 + "b", "keeper" * 15 + "1", "keeper" * 15 + "2"]
    rows = [[str(n), *(f"{'abcd'[k]}{n % (5 + k)}" for k in range(4)), *(f"the {'abcdefgh'[n % (5 + k)]} word" for k in range(4))]
            for n in range(80)]  # fmt: skip
    names = ["line_no", *long, *(f"told {n}" for n in range(4))]
    accepted = [f'"{key}" -> "told {n}"' for n, key in enumerate(long)]
    folder = folder_of(Relation.from_rows(names, rows), tmp_path / "made", accepted=accepted)
    kind = database(name)
    made = [text.split()[2] for text in schema_statements(folder.fitted(kind).document, kind).indexes]
    assert len(made) == 4
    assert len(set(made)) == 4
    limit = {"postgresql": 63, "mysql": 64, "mariadb": 64}.get(name, 128)
    assert all(len(one.strip('`"[]').encode()) <= limit or name != "postgresql" for one in made)
    assert all(len(one.strip('`"[]')) <= limit for one in made)


def test_a_question_about_a_role_gives_only_what_has_that_role(tmp_path):
    ports = [
        ("P1", "Ost", "NL"),
        ("P2", "Brun", "DE"),
        ("P3", "Kap", "ZA"),
        ("P4", "Lom", "IT"),
        ("P5", "Nor", "NO"),
    ]
    chance = random.Random(1)
    rows = [[f"V{n}", *chance.choice(ports[:3]), *chance.choice(ports[2:]), str(n * 3)] for n in range(80)]
    names = ["voyage", "from_port", "from_town", "from_country", "to_port", "to_town", "to_country", "cargo"]
    folder = folder_of(Relation.from_rows(names, rows), tmp_path / "made")
    assert any(table.roles for table in folder.tables)
    load_folder(folder, f"sqlite:///{tmp_path}/a.db")
    with sqlite_at(tmp_path / "a.db") as there:
        found = there.execute(recombined(folder.document, ["from_port", "from_country"]).sql).fetchall()
    assert sorted(found) == [("P1", "NL"), ("P2", "DE"), ("P3", "ZA")]


def test_the_document_says_what_it_is(rough):
    document = json.loads((rough.path / "design.json").read_text(encoding="utf-8"))
    assert (document["format"], document["version"]) == ("pravix.design", 1)
    assert set(document["flat"]) == {"types", "mark", "text_mark"}


@pytest.mark.parametrize(
    ("form", "cells", "texts"),
    [
        (Form.TEXT, [1, 2.5, None, "x"], ["1", "2.5", "", "x"]),
        (Form.TEXT, [1, 2.5], ["1", "2.5"]),
        (Form.DECIMAL, [1, 2.5, None], ["1", "2.5", ""]),
        (Form.DECIMAL, [Decimal("1E+2"), Decimal("7.610"), None], ["100", "7.61", ""]),
        (Form.DECIMAL, [2**70, Decimal("0.5")], [str(2**70), "0.5"]),
        (Form.WHOLE, [None, None], ["", ""]),
    ],
)
def test_cells_as_drivers_give_them_have_the_hashes_of_their_texts(form, cells, texts):
    assert of_rows([[cell] for cell in cells], [form]).mark == of_cells([texts], [form]).mark
