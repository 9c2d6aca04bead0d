"""Good files, damaged at random: never a traceback, never a hang, and always one line."""

import gzip
import random
from pathlib import Path

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

import pravix.demo
from pravix.errors import InputError
from pravix.sources.read import read_source

DEMO = Path(pravix.demo.__file__).parent
CSV = b"\n".join((DEMO / "deliveries_rough.csv").read_bytes().split(b"\n")[:40])
GOOD = {
    "a.csv": CSV,
    "a.csv.gz": gzip.compress(CSV),
    "a.xlsx": (DEMO / "deliveries_office.xlsx").read_bytes(),
    "a.jsonl": b'{"drum": "1", "kg": 2.5}\n{"drum": "2", "kg": null}\n' * 20,
}
MARKS = [b"\xff\xfe", b"\xef\xbb\xbf", b"\xc3"]
PIECES = [
    *MARKS,
    b"\0",
    b'"',
    b"\n",
    b"\r",
    b",",
    b";",
    b"{",
    b"Total",
    b"\t" * 50,
    b"",
]


def read_or_refused(path):
    refusal, source = "", None
    try:
        source = read_source(str(path))
    except InputError as error:
        refusal = str(error)
    assert "\n" not in refusal
    if source is not None:
        assert source.relation.row_count > 0
        assert len(set(source.relation.names)) == len(source.relation.columns)
        assert all(len(column.codes) == source.relation.row_count for column in source.relation.columns)


@pytest.mark.parametrize("name", GOOD)
@pytest.mark.parametrize("seed", range(40))
def test_damaged_files_are_read_or_refused(tmp_path, name, seed):
    draw = random.Random(f"{name} {seed}")
    data = bytearray(GOOD[name])
    for _ in range(draw.choice([1, 1, 2, 5, 30])):
        start = draw.randrange(len(data) + 1)
        end = min(len(data), start + draw.choice([0, 1, 1, 4, 200]))
        data[start:end] = draw.choice([*PIECES, bytes([draw.randrange(256)]), bytes(data[end : end + 20])])
    (tmp_path / name).write_bytes(data[: draw.choice([len(data), len(data) // 2, len(data) - 3])])
    read_or_refused(tmp_path / name)


@given(st.binary(max_size=60) | st.text(alphabet='ab,;"\n\r\t 1.', max_size=60).map(str.encode))
@example(b'a,b\n"')
@example(b'"')
@example(b"\n\n,\n")
@example(b"\xef\xbb\xbf")
@example(b"\xff\xfe")
def test_any_bytes_are_read_or_refused(tmp_path_factory, data):
    path = tmp_path_factory.mktemp("fuzz") / "a.csv"
    path.write_bytes(data)
    read_or_refused(path)
