"""The lines of a text: counted, and some of them written, spread over all."""

import pytest

from pravix.engines import lines
from pravix.engines.lines import Lines

ROWS = [f"D-{n:04},depot {n % 7}," + "x" * (n % 50) for n in range(3_000)]


@pytest.fixture(params=[1 << 22, 1_000, 64])
def piece(request, monkeypatch):
    """Read a file in pieces of so many bytes."""
    monkeypatch.setattr(lines, "_PIECE", request.param)


@pytest.mark.parametrize("end", ["\n", "\r\n"])
@pytest.mark.parametrize("after", [0, 1, 3])
@pytest.mark.parametrize("above", [0, 1, 2])
def test_lines_are_counted_and_some_written_whole(above, after, end, piece, tmp_path):
    path, some = tmp_path / "flat.csv", tmp_path / "some.csv"
    text = end.join(["header"] * above + ROWS) + end * after
    path.write_bytes(text.encode())
    found = Lines(str(path), above)
    assert found.looked_through(str(some), 20) == len(ROWS)
    written = some.read_bytes().decode().split(end)[:-1]
    assert set(written) <= {*ROWS, ""}
    assert len(set(written)) == len(written)
    assert found.looked_through(str(some), None) == len(ROWS)
    assert some.read_bytes() == b""


def test_about_one_line_in_so_many_is_written_from_all_over(tmp_path):
    path, some = tmp_path / "flat.csv", tmp_path / "some.csv"
    path.write_text("\n".join(["header", *ROWS]), encoding="utf-8")
    Lines(str(path), 1).looked_through(str(some), 20)
    places = [ROWS.index(line) for line in some.read_text(encoding="utf-8").splitlines()]
    assert 100 <= len(places) <= 200
    assert min(places) < 100
    assert max(places) > 2_900


def test_lines_with_half_a_quote_are_not_written_and_then_none_are_counted(tmp_path):
    path, some = tmp_path / "flat.csv", tmp_path / "some.csv"
    rows = [f'D-{n:04},"depot' if n % 3 else f'D-{n:04},"depot 1"' for n in range(3_000)]
    path.write_text("\n".join(["header", *rows]), encoding="utf-8")
    assert Lines(str(path), 1).looked_through(str(some), 7) is None
    written = some.read_text(encoding="utf-8").splitlines()
    assert len(written) > 50
    assert all(line.endswith('"depot 1"') for line in written)
