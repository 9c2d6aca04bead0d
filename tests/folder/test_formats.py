"""The formats of tables: each gives back every cell to the letter, and what is wrong in a file is told."""

import pyarrow
import pytest
from databases import DUCKDB, MARIADB, POSTGRES, new_database
from folders import folder_of
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pyarrow import parquet

from pravix.design.build import designed
from pravix.discovery.search import discover
from pravix.errors import InputError
from pravix.first_normal_form.repair import Repaired
from pravix.folder.formats import FORMATS, format_of
from pravix.judgement.judge import judge
from pravix.loading.load import load_folder
from pravix.proof.proving import prove_folder
from pravix.relation.relation import Relation

DRUMS = [
    [
        f"D{n}",
        str(n),
        f"{n}.50",
        f"2026-05-{n % 28 + 1:02d}",
        "" if n % 5 else "cracked, glued",
        "007" if n else "7",
    ]
    for n in range(40)
]
HEADER = ["drum", "place", "kg", "filled", "note", "seal"]


def failing(folder):
    return [text for holds, text in prove_folder(folder.path) if not holds]


@pytest.fixture
def drums(tmp_path):
    return folder_of(Relation.from_rows(HEADER, DRUMS), tmp_path / "made", tables_as="parquet")


def test_numbers_and_dates_have_their_types_and_codes_are_texts(drums):
    (table,) = drums.tables
    schema = parquet.read_schema(drums.path / table.file)
    told = {name: str(schema.field(name).type) for name in schema.names}
    assert told == {
        "drum": "string",
        "place": "int64",
        "kg": "decimal128(5, 2)",
        "filled": "date32[day]",
        "note": "string",
        "seal": "string",
    }
    assert failing(drums) == []


@pytest.mark.parametrize(
    "server", [None, POSTGRES, MARIADB, DUCKDB], ids=["sqlite", "postgresql", "mariadb", "duckdb"]
)
def test_a_folder_of_parquet_files_is_loaded_and_checked(drums, server, tmp_path):
    if server is None:
        assert load_folder(drums, f"sqlite:///{tmp_path}/made.db").views == {"flat": 40}
        return
    with new_database(server) as url:
        assert load_folder(drums, url).views == {"flat": 40}


@pytest.mark.parametrize("name", FORMATS)
@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    cells=st.lists(
        st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\0"), max_size=8),
        min_size=1,
        max_size=20,
    )
)
def test_every_cell_comes_back_as_it_was(name, cells, tmp_path):
    relation = Relation.from_rows(["line", "cell"], [[str(n), cell] for n, cell in enumerate(cells)])
    table = designed(Repaired(relation, relation), judge(relation, discover(relation))).tables[-1]
    path = tmp_path / f"cells{FORMATS[name].ending}"
    FORMATS[name].write(table, path)
    wanted = [[cell or None for cell in row] for row in table.rows.rows()]
    assert list(FORMATS[name].rows(path, len(table.column_names))) == wanted
    batches = FORMATS[name].batches(path, len(table.column_names))
    found = pyarrow.Table.from_batches(batches)
    assert [
        list(row) for row in zip(*(column.to_pylist() for column in found.columns), strict=True)
    ] == wanted


def test_a_changed_cell_a_lacking_column_and_a_broken_file_are_told(drums):
    (table,) = drums.tables
    file = drums.path / table.file
    sound = parquet.read_table(file)
    kg = pyarrow.array(
        ["99.99" if n == 3 else cell for n, cell in enumerate(sound["kg"].cast("string").to_pylist())]
    )
    place = sound.column_names.index("kg")
    parquet.write_table(sound.set_column(place, "kg", kg.cast(sound["kg"].type)), file)
    assert any("not to those of the file" in told for told in failing(drums))
    parquet.write_table(sound.drop_columns(["kg"]), file)
    with pytest.raises(InputError, match="5 columns where the table has 6"):
        list(drums.rows(table))
    file.write_bytes(b"PAR1 no")
    with pytest.raises(InputError, match=f"{table.file} in .* cannot be read"):
        list(drums.rows(table))
    with pytest.raises(InputError, match="cannot be read"):
        prove_folder(drums.path)


def test_an_unknown_format_is_refused():
    with pytest.raises(InputError, match="is no table of a folder"):
        format_of("drums.xml")
