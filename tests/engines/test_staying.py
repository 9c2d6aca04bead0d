"""Sources too large for memory: the same design, counts and types as in memory, from a small sample."""

import gzip
import sys
from dataclasses import replace
from decimal import Decimal
from random import Random

import pyarrow
import pytest
from databases import POSTGRES, new_database
from flat_tables import ENGINES, database_of, executed, put
from large import NAMES, csv_text, deliveries
from pyarrow import csv, parquet
from sqlalchemy import literal_column
from sqlalchemy.engine import make_url

import pravix
from pravix.analysis import Analysis
from pravix.document.design_document import design_document
from pravix.engines import sample as sample_module
from pravix.engines import staying
from pravix.engines.adaptor import DuckDB
from pravix.engines.staying import Staying, read_anywhere
from pravix.errors import InputError
from pravix.first_normal_form import elsewhere as elsewhere_module
from pravix.first_normal_form.answer import Answer
from pravix.first_normal_form.findings import findings, findings_of
from pravix.folder.outside import write_outside
from pravix.folder.reader import open_folder
from pravix.loading.load import load_folder
from pravix.proof.proving import prove_folder
from pravix.relation.profile import profile
from pravix.sources.read import read_source
from pravix.sources.reading import Reading

ALWAYS = 1 << 20
"""Memory in which nothing fits."""


@pytest.fixture(scope="module")
def rows():
    return deliveries(12_000)


@pytest.fixture
def small(monkeypatch):
    """Draw a tenth of the rows only."""
    monkeypatch.setattr(sample_module, "ROWS", 1_200)
    monkeypatch.setattr(sample_module.Sample.__init__, "__defaults__", (1_200,))


def draw_the_first(rows, monkeypatch):
    """Draw the first rows of a file only, so that what the others say is not seen among those drawn."""
    monkeypatch.setattr(sample_module.Sample.__init__, "__defaults__", (rows,))
    monkeypatch.setattr(DuckDB, "sampled", lambda self, share, table: literal_column("rowid") < rows)


def told(analysis):
    """Return what a design says, without what tells of rows one by one."""
    document = design_document(analysis.design, elsewhere=analysis.elsewhere)
    tables = [
        (
            table.name,
            [(one.name, one.type, one.nullable) for one in table.columns],
            table.primary_key,
            table.candidate_keys,
            [(link.columns, link.references.table, link.cardinality) for link in table.foreign_keys],
            table.rows,
            table.confidence_told,
        )
        for table in document.tables
    ]
    steps = [
        (step.determinant, step.dependents, step.stated_before, step.stated_now) for step in document.steps
    ]
    return (
        tables,
        steps,
        document.source.rows,
        {(one.determinant, one.dependent) for one in document.dependencies},
    )


@pytest.fixture(scope="module")
def in_memory(rows, tmp_path_factory):
    path = tmp_path_factory.mktemp("all") / "deliveries.csv"
    path.write_text(csv_text(rows), encoding="utf-8")
    return Analysis(str(path))


@pytest.mark.parametrize("form", ["csv", "csv.gz", "parquet", "folder"])
def test_a_large_file_has_the_design_that_it_has_in_memory(form, rows, in_memory, small, tmp_path):
    path = tmp_path / f"deliveries.{form}"
    if form == "csv":
        path.write_text(csv_text(rows), encoding="utf-8")
    elif form == "csv.gz":
        path.write_bytes(gzip.compress(csv_text(rows).encode()))
    else:
        table = pyarrow.table({name: [row[n] for row in rows] for n, name in enumerate(NAMES)})
        if form == "folder":
            path.mkdir()
            parquet.write_table(table.slice(0, 5_000), path / "a.parquet")
            parquet.write_table(table.slice(5_000), path / "b.parquet")
        else:
            parquet.write_table(table, path)
    made = Analysis(str(path), Reading(memory=ALWAYS))
    assert isinstance(made.source, Staying)
    assert made.source.relation.row_count < 3_000
    assert told(made) == told(in_memory)
    assert "12,000 rows stay outside memory" in str(made.source.account)
    made.source.flat.place.close()


def test_a_folder_of_parquet_has_the_design_by_spark_that_it_has_in_memory(rows, small, tmp_path):
    """Some of the columns: Spark takes its time for each statement."""
    names = ["delivery_no", "keeper_no", "keeper", "village", "district", "kg"]
    places = [NAMES.index(name) for name in names]
    path = tmp_path / "some.csv"
    path.write_text(csv_text([[row[n] for n in places] for row in rows], names), encoding="utf-8")
    table = pyarrow.table(
        {name: [row[n] or None for row in rows] for n, name in zip(places, names, strict=True)}
    )
    folder = tmp_path / "deliveries"
    folder.mkdir()
    parquet.write_table(table.slice(0, 5_000), folder / "a.parquet")
    parquet.write_table(table.slice(5_000), folder / "b.parquet")
    with database_of("spark", tmp_path) as url:
        made = Analysis(url, Reading(table=f"parquet.{folder}", memory=ALWAYS))
        assert told(made) == told(Analysis(str(path)))
        assert made.source.flat.place.moved < 30_000
        assert "nobody may write to them meanwhile" in str(made.source.account)
        made.source.flat.place.close()


@pytest.mark.parametrize("engine", ENGINES)
def test_a_large_table_has_the_design_that_it_has_in_memory(engine, rows, in_memory, small, tmp_path):
    with database_of(engine, tmp_path) as url:
        put(url, NAMES, [[cell or None for cell in row] for row in rows])
        made = Analysis(url, Reading(table="flat rows", memory=ALWAYS))
        assert told(made) == told(in_memory)
        assert max(made.source.relation.row_count, made.source.flat.place.moved) < 12_000
        made.source.flat.place.close()


def test_a_survey_counts_all_rows(rows, small, tmp_path):
    path = tmp_path / "deliveries.csv"
    path.write_text(csv_text(rows), encoding="utf-8")
    made = Analysis(str(path), Reading(memory=ALWAYS), unrepaired=True)
    wanted = profile(read_source(str(path)).relation)
    found = profile(made.relation)
    for one, other in zip(found, wanted, strict=True):
        assert (one.name, one.type, one.distinct, one.blanks, one.repeats) == (
            other.name,
            other.type,
            other.distinct,
            other.blanks,
            other.repeats,
        )
        assert [times for _, times in one.examples] == [times for _, times in other.examples][
            : len(one.examples)
        ]
    made.source.flat.place.close()


def test_rare_values_types_and_blanks_are_drawn_as_well(small, tmp_path):
    rows = [list(row) for row in deliveries(12_000)]
    rows[7_777][2] = ""
    rows[8_888][8] = "about 40"
    rows[9_999][6] = "Honey of a much longer name"
    path = tmp_path / "deliveries.csv"
    path.write_text(csv_text(rows), encoding="utf-8")
    made = read_anywhere(str(path), Reading(memory=ALWAYS))
    relation = made.relation
    assert "" in relation.column("keeper_no").texts()
    assert {"about 40"} <= set(relation.column("kg").texts())
    assert "Honey of a much longer name" in relation.column("honey").texts()
    where = relation.column("kg").texts().index("about 40")
    assert relation.row_numbers[where] == 8_890, "a row is called as in its file"
    made.flat.place.close()


def test_spaces_and_decimal_commas_are_read_as_in_memory(small, tmp_path):
    rows = [[*row[:8], row[8].replace(".", ","), f" {row[9]} "] for row in deliveries(4_000)]
    path = tmp_path / "deliveries.csv"
    text = "".join(";".join(row) + "\n" for row in [NAMES, *rows])
    path.write_text(text, encoding="utf-8")
    made = read_anywhere(str(path), Reading(memory=ALWAYS))
    wanted = dict(enumerate(read_source(str(path)).relation.rows(), 2))
    for number, row in zip(made.relation.row_numbers.tolist(), made.relation.rows(), strict=True):
        assert row == wanted[number]
    assert "decimal commas read as points in kg" in str(made.account)
    made.flat.place.close()


def test_a_rule_that_three_rows_of_all_break_is_near_and_asked_about(small, tmp_path):
    rows = [list(row) for row in deliveries(12_000)]
    for place in (2_001, 7_003, 11_005):
        rows[place][5] = "Distrct 9"
    path = tmp_path / "deliveries.csv"
    path.write_text(csv_text(rows), encoding="utf-8")
    wanted = Analysis(str(path))
    made = Analysis(str(path), Reading(memory=ALWAYS))
    ours = {(one.rule, one.exceptions, one.tests) for one in wanted.near}
    assert ours
    assert {(one.rule, one.exceptions, one.tests) for one in made.near} == ours
    assert {one.id for one in made.questions} == {one.id for one in wanted.questions}
    made.source.flat.place.close()


def test_a_name_with_brackets_is_a_file_where_there_is_one(tmp_path):
    path = tmp_path / "flat [2].csv"
    path.write_text("a,b\n1,x\n2,y\n", encoding="utf-8")
    assert read_anywhere(str(path), Reading()).relation.row_count == 2


def test_what_fits_is_read_by_any_query_that_the_database_takes(tmp_path):
    with database_of("sqlite", tmp_path) as url:
        put(url, ["a", "b"], [("1", "x"), ("2", "y")])
        executed(url, ('CREATE VIEW seen AS SELECT a FROM "flat rows"',))
        query = 'SELECT * FROM "flat rows";'
        assert read_anywhere(url, Reading(query=query)).relation.rows() == [("1", "x"), ("2", "y")]
        assert read_anywhere(url, Reading(table="seen")).relation.rows() == [("1",), ("2",)]
        assert read_anywhere(url, Reading(table="main.seen")).relation.rows() == [("1",), ("2",)]
        large = read_anywhere(url, Reading(table="main.seen", memory=1))
        assert (large.flat.row_count, large.relation.row_count) == (2, 2)
        large.flat.place.close()


def test_the_right_to_read_is_enough():
    with new_database(POSTGRES) as url:
        put(url, NAMES, deliveries(500))
        name = make_url(url).database
        role = f"reader_of_{name}"
        executed(
            url,
            (f"CREATE ROLE {role} LOGIN",),
            (f'GRANT SELECT ON "flat rows" TO {role}',),
            (f"REVOKE TEMPORARY ON DATABASE {name} FROM PUBLIC",),
        )
        try:
            reader = make_url(url).set(username=role).render_as_string(hide_password=False)
            made = Analysis(reader, Reading(table="flat rows", memory=1))
            assert made.design.proof.holds
            made.source.flat.place.close()
        finally:
            executed(url, (f"DROP OWNED BY {role}",), (f"DROP ROLE {role}",))


def test_a_notebook_says_that_the_rows_are_not_here(small, tmp_path):
    path = tmp_path / "deliveries.csv"
    path.write_text(csv_text(deliveries(9_000)), encoding="utf-8")
    design = pravix.read(str(path), memory=ALWAYS).design
    with pytest.raises(InputError, match="the rows stay outside memory"):
        _ = design.tables
    assert "delivery.parquet" in design.write(tmp_path / "out")
    assert design.document.elsewhere.drawn < 9_000
    assert all(claim[0] == "holds" for claim in design.prove().rows)


def test_without_the_embedded_database_the_line_to_install_it_is_told(tmp_path, monkeypatch):
    path = tmp_path / "deliveries.csv"
    path.write_text(csv_text(deliveries(6_000)), encoding="utf-8")
    monkeypatch.setitem(sys.modules, "duckdb_engine", None)
    with pytest.raises(InputError, match="does not fit into memory") as caught:
        read_anywhere(str(path), Reading(memory=ALWAYS))
    assert "pip install 'pravix[duckdb]'" in caught.value.hint


@pytest.mark.parametrize("above", ["", "Deliveries of 2026\n\n"])
@pytest.mark.parametrize("ending", ["csv", "csv.gz", "parquet"])
def test_a_large_file_that_fits_is_read_into_memory_however_it_is_to_be_read(
    ending, above, tmp_path, monkeypatch
):
    """Nor is the embedded database needed for it."""
    path = tmp_path / f"deliveries.{ending}"
    text = (above + csv_text(deliveries(600))).encode()
    if ending == "parquet":
        parquet.write_table(csv.read_csv(pyarrow.BufferReader(csv_text(deliveries(600)).encode())), path)
    else:
        path.write_bytes(gzip.compress(text) if ending == "csv.gz" else text)
    monkeypatch.setattr(staying, "_SMALL", 0)
    monkeypatch.setitem(sys.modules, "duckdb_engine", None)
    found = read_anywhere(str(path), Reading(memory=1 << 30))
    assert not isinstance(found, Staying)
    assert found.relation.row_count == 600
    assert ("header in row 3" in str(found.account)) == (bool(above) and ending != "parquet")


@pytest.mark.parametrize("policies", [{}, {"surrogates": "always"}])
def test_tables_of_rows_outside_memory_are_written_and_proved(policies, small, tmp_path):
    tools = ["smoker; gloves", "gloves; veil; brush", "brush", "veil; smoker"]
    rows = [[*row, tools[n * 7 % 4]] for n, row in enumerate(deliveries(9_000))]
    path = tmp_path / "deliveries.csv"
    path.write_text(csv_text(rows, [*NAMES, "tools"]), encoding="utf-8")
    made = Analysis(str(path), Reading(memory=ALWAYS), policies=policies)
    (found,) = findings(made.source.relation, topics=("list",))
    made = made.with_ledger(replace(made.ledger, answers=(Answer(found.id, found.repair.answer),)))
    document = design_document(made.design, elsewhere=made.elsewhere)
    write_outside(document, made.source.flat, str(tmp_path / "out"))
    made.source.flat.place.close()
    claims = prove_folder(tmp_path / "out")
    assert all(holds for holds, _ in claims), claims
    folder = open_folder(tmp_path / "out")
    assert {table.name: table.rows for table in folder.tables} == {
        table.name: len(list(folder.rows(table))) for table in folder.tables
    }
    assert load_folder(folder, f"sqlite:///{tmp_path}/made.db").views == {"flat": 9_000}


def test_temporary_files_go_when_the_place_is_closed(tmp_path, monkeypatch):
    monkeypatch.setattr("tempfile.tempdir", str(tmp_path))
    path = tmp_path / "deliveries.csv"
    path.write_text(csv_text(deliveries(6_000)), encoding="utf-8")
    made = read_anywhere(str(path), Reading(memory=ALWAYS))
    assert len(list(tmp_path.glob("pravix-*"))) == 1
    made.flat.place.close()
    assert not list(tmp_path.glob("pravix-*"))


def test_rows_of_a_large_file_that_nothing_identifies_have_their_numbers(tmp_path):
    rows = [f"K-{n % 9},Ada {n % 9},{n % 3}.5" for n in range(900)]
    path = tmp_path / "drums.csv"
    path.write_text("\n".join(["keeper_no,keeper,kg", *rows]), encoding="utf-8")
    outside, inside = Analysis(str(path), Reading(memory=1)), Analysis(str(path))
    assert isinstance(outside.source, Staying)
    assert told(outside) == told(inside)
    document = design_document(outside.design, elsewhere=outside.elsewhere)
    write_outside(document, outside.source.flat, str(tmp_path / "out"))
    outside.source.flat.place.close()
    assert all(holds for holds, _ in prove_folder(tmp_path / "out"))
    folder = open_folder(tmp_path / "out")
    main = folder.document.by_name[folder.design.main]
    place = main.column_names.index("row_no")
    assert [row[place] for row in folder.rows(main)] == [str(n) for n in range(2, 902)]


def test_independent_lists_are_held_against_all_rows(tmp_path, monkeypatch):
    pairs = [("Lime", "veil"), ("Lime", "brush"), ("Clover", "veil"), ("Clover", "brush")]
    rows = [f"H-{n:03d},{plant},{tool}" for n in range(100) for plant, tool in pairs]
    path = tmp_path / "hives.csv"

    def decomposed(lines):
        path.write_text("\n".join(["hive_no,plant,tool", *lines]), encoding="utf-8")
        made = Analysis(str(path), Reading(memory=1), policies={"until": "4nf"})
        try:
            return {table.name: table.rows.total for table in made.design.tables}
        finally:
            made.source.flat.place.close()

    assert decomposed(rows) == {"hive_plant": 200, "hive_tool": 200}
    draw_the_first(400, monkeypatch)
    with pytest.raises(InputError, match=r"would give 404 rows, not 402: their lists"):
        decomposed([*rows, "H-100,Lime,veil", "H-100,Clover,brush"])


def test_a_formula_is_held_against_all_rows(tmp_path, monkeypatch):
    draw_the_first(1_500, monkeypatch)
    chance = Random(1)
    pairs = [(chance.randint(100, 999), chance.randint(10, 99)) for _ in range(3_000)]
    rows = [
        f"D-{n:05d},K-{n % 50},Ada {n % 50},{kg / 10},{price / 10},{Decimal(kg * price) / 100}"
        for n, (kg, price) in enumerate(pairs)
    ]
    path = tmp_path / "drums.csv"

    def decomposed(lines):
        path.write_text("\n".join(["drum_no,keeper_no,keeper,kg,price,total", *lines]), encoding="utf-8")
        made = Analysis(str(path), Reading(memory=1))
        answer = Answer("computed: total", "leave out")
        made = made.with_ledger(replace(made.ledger, answers=(answer,)))
        try:
            return made.design
        finally:
            made.source.flat.place.close()

    assert all("total" not in table.column_names for table in decomposed(rows).tables)
    with pytest.raises(
        InputError, match=r"total is not kg \* price in 1 of 3,000 rows, though in all that were"
    ):
        decomposed([*rows[:-1], "D-02999,K-49,Ada 49,10.0,2.0,21.00"])


def test_findings_are_held_against_all_rows(tmp_path, monkeypatch):
    draw_the_first(1_000, monkeypatch)
    chance = Random(2)
    pairs = [(chance.randint(100, 999), chance.randint(10, 99)) for _ in range(3_000)]
    rows = [
        f"D-{n:05d},{kg / 10},{price / 10},{Decimal(kg * price) / 100}" for n, (kg, price) in enumerate(pairs)
    ]
    path = tmp_path / "drums.csv"

    def found(lines):
        path.write_text("\n".join(["drum_no,kg,price,total", *lines]), encoding="utf-8")
        source = read_anywhere(str(path), Reading(memory=1))
        try:
            return " ".join(one.told for one in findings_of(source) if one.columns[0] == "total")
        finally:
            source.flat.place.close()

    assert found(rows).endswith("; its repair gives back all 3,000 rows")
    assert found([*rows[:-2], "D-02998,10.0,2.0,21.00", "D-02999,10.0,2.0,21.00"]).endswith(
        "; its repair would not give back 2 of all 3,000 rows"
    )
    monkeypatch.setattr(elsewhere_module, "MOST_ROWS", 50)
    assert found(rows).endswith(", as far as the rows go that were drawn of all 3,000 rows")


def test_words_for_no_value_are_counted_only_where_all_rows_are_seen(small, tmp_path):
    lines = [f"D{n},{'NA' if n % 9 == 0 else n % 400}" for n in range(3_000)]
    path = tmp_path / "flat.csv"
    path.write_text("\n".join(["delivery,kg", *lines, ""]), encoding="utf-8")
    with_counts = "NA stands in kg (334 rows), where all else are numbers: --blank NA reads it as a blank"
    (whole,) = findings(read_source(str(path)).relation, topics=["no value"])
    assert whole.told == with_counts
    staying = Analysis(str(path), Reading(memory=1))
    found = [one for one in findings_of(staying.source) if one.topic == whole.topic]
    assert [one.told.partition(", as far as ")[2] for one in found] == [
        "the rows go that were drawn of all 3,000 rows"
    ]
    (remark,) = [one for one in staying.design.remarks if one.about == "no value"]
    assert remark.text == with_counts.replace(" (334 rows)", "") + "."
    staying.source.flat.place.close()
