"""The same rows in every format that is read."""

import bz2
import gzip
import io
import json
import zipfile

import pytest

from pravix.errors import InputError
from pravix.sources.read import read_source

NAMES = ["drum_no", "honey", "weight_kg"]
ROWS = [("007", "Heather", "15.50"), ("008", "Linden", ""), ("009", 'Bárány, "raw"', "0.10")]


def as_text():
    quoted = ['"' + '","'.join(cell.replace('"', '""') for cell in row) + '"' for row in (NAMES, *ROWS)]
    return ("\n".join(quoted) + "\n").encode()


def zipped(**files):
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return made.getvalue()


def as_json(lines):
    records = [{name: cell or None for name, cell in zip(NAMES, row, strict=True)} for row in ROWS]
    return ("\n".join(map(json.dumps, records)) if lines else json.dumps(records, indent=1)).encode()


def as_feather(path):
    import pyarrow
    from pyarrow import feather

    columns = [pyarrow.array([cell or None for cell in cells]) for cells in zip(*ROWS, strict=True)]
    feather.write_feather(pyarrow.table(columns, names=NAMES), path)


@pytest.mark.parametrize(
    ("name", "data"),
    [
        ("a.csv", as_text()),
        ("a.csv.gz", gzip.compress(as_text())),
        ("a.csv.bz2", bz2.compress(as_text())),
        ("a.zip", zipped(**{"a.csv": as_text()})),
        ("a.csv.zip", zipped(**{"in/": b"", "in/a.csv": as_text(), "__MACOSX/a.csv": b"x"})),
        ("a.jsonl", as_json(lines=True)),
        ("a.jsonl.bz2", bz2.compress(as_json(lines=True))),
        ("a.json", as_json(lines=False)),
        ("a.json.gz", gzip.compress(as_json(lines=False))),
        ("a.json.zip", zipped(**{"a.json": as_json(lines=False)})),
        ("a.feather", None),
        ("a.arrow", None),
    ],
)
def test_every_format_gives_the_same_rows(tmp_path, name, data):
    path = tmp_path / name
    if data is None:
        as_feather(str(path))
    else:
        path.write_bytes(data)
    relation = read_source(str(path)).relation
    assert list(relation.names) == NAMES
    assert relation.rows() == ROWS


@pytest.mark.parametrize(
    ("name", "data", "told"),
    [
        ("a.zip", zipped(**{"a.csv": b"a\n1\n", "b.csv": b"b\n1\n"}), "holds 2 files, and one is read"),
        ("a.zip", zipped(), "holds 0 files"),
        ("a.zip", zipped(**{"a.csv": as_text() * 500})[:-60], "broken zip file"),
        ("a.csv.bz2", bz2.compress(as_text() * 500)[:-9], "broken bzip2 file"),
        ("a.json", b'{"a": 1}', "is no JSON array"),
        ("a.json", b'[{"a": 1},\n {"a": }]', "a.json, line 2 is not JSON"),
        ("a.json", b'[{"a": 1}, 2]', "a.json, record 2 is not a JSON object"),
        ("a.json", b'[{"a": {"b": 1}}]', "a.json, record 1: a is nested"),
        ("a.json", b"[]", "holds no data rows"),
        ("a.feather", b"no such thing", "is not a readable Feather file"),
    ],
)
def test_what_cannot_be_read_is_told_in_one_line(tmp_path, name, data, told):
    path = tmp_path / name
    path.write_bytes(data)
    with pytest.raises(InputError, match=told):
        read_source(str(path))


def test_numbers_of_a_json_array_keep_their_digits(tmp_path):
    path = tmp_path / "a.json"
    path.write_text('[{"a": 1.50, "b": true}, {"a": 123456789012345678901234567890, "b": false, "c": "x"}]')
    assert read_source(str(path)).relation.rows() == [
        ("1.50", "yes", ""),
        ("123456789012345678901234567890", "no", "x"),
    ]


def test_postgres_is_read_as_postgresql():
    from pravix.sources.connecting import url_of

    assert url_of("postgres://a@b/c").drivername == "postgresql"
    assert url_of("postgres+psycopg://a@b/c").drivername == "postgresql+psycopg"
    assert url_of("postgresql://a@b/c").drivername == "postgresql"
