"""Reading delimited files: what is read, and one clear line for what cannot be."""

import csv
import io

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from pravix.errors import InputError
from pravix.sources.delimited import _read_carefully, _read_fast
from pravix.sources.read import read_source
from pravix.sources.reading import Reading


@pytest.fixture
def read(tmp_path):
    def reading(content, name="sheet.csv"):
        path = tmp_path / name
        path.write_bytes(content if isinstance(content, bytes) else content.encode())
        return read_source(str(path))

    return reading


def rows(source):
    return source.relation.rows()


def test_every_cell_is_text_and_an_empty_one_is_blank(read):
    source = read("no,price,note\n007,1.50,\n008,,late\n")
    assert source.relation.names == ("no", "price", "note")
    assert rows(source) == [("007", "1.50", ""), ("008", "", "late")]
    assert source.relation.row_numbers.tolist() == [2, 3]


@pytest.mark.parametrize(("mark", "told"), [(";", "semicolon"), ("\t", "tab"), ("|", "bar")])
def test_the_delimiter_is_found_among_decimal_commas(read, mark, told):
    source = read(f"drum{mark}net weight\n2001{mark}17,5\n2002{mark}18,0\n")
    assert rows(source) == [("2001", "17.5"), ("2002", "18.0")]
    assert f"{told} between cells" in str(source.account)


def test_a_comma_file_with_semicolons_in_a_cell(read):
    assert rows(read("a,b\n1,x; y\n2,z\n")) == [("1", "x; y"), ("2", "z")]


def test_one_column_needs_no_delimiter(read):
    assert rows(read("drum\n2001\n2002\n")) == [("2001",), ("2002",)]


def test_quoted_cells_hold_delimiters_quotes_and_line_breaks(read):
    source = read('a,b\n"x, ""y""","one\ntwo"\n1,2\n')
    assert rows(source) == [('x, "y"', "one\ntwo"), ("1", "2")]
    assert source.relation.row_numbers.tolist() == [2, 3]


@pytest.mark.parametrize("end", ["\n", "\r\n", "\r"])
@pytest.mark.parametrize("last", ["", "end"])
def test_line_ends_of_every_kind(read, end, last):
    text = end.join(["a,b", "1,x", "2,y"]) + (end if last else "")
    assert rows(read(text)) == [("1", "x"), ("2", "y")]


@pytest.mark.parametrize(
    ("codec", "told"),
    [
        ("utf-8", "UTF-8"),
        ("utf-8-sig", "UTF-8"),
        ("utf-16", "UTF-16"),
        ("utf-16-le", "UTF-16"),
        ("utf-16-be", "UTF-16"),
        ("cp1252", "Windows-1252 (Western)"),
    ],
)
def test_encodings(read, codec, told):
    lines = [
        "Imker,Dorf",
        *(f"K-{number},Köhlerhöhe an der Mühle, süß".rsplit(",", 1)[0] for number in range(40)),
    ]
    content = "\n".join(lines).encode(codec)
    source = read(content)
    assert source.relation.column("Dorf").present_values == ["Köhlerhöhe an der Mühle"]
    assert source.account.form.startswith(f"{told}, comma")


def test_blank_lines_are_left_out_and_the_numbers_stay_true(read):
    source = read("a,b\n\n1,x\n\n\n2,y\n\n")
    assert rows(source) == [("1", "x"), ("2", "y")]
    assert source.relation.row_numbers.tolist() == [3, 6]
    assert "4 blank lines left out" in str(source.account)


def test_a_huge_cell_is_read(read):
    cell = "x" * 3_000_000
    assert rows(read(f"a,b\n1,{cell}\n2,y\n")) == [("1", cell), ("2", "y")]


@pytest.mark.parametrize(
    ("content", "message"),
    [
        ("", "sheet.csv is empty"),
        ("  \n\n", "sheet.csv is empty"),
        ("a,b\n", "sheet.csv holds a header and no data rows"),
        ("a,b\n\n\n", "sheet.csv holds a header and no data rows"),
        ("a,,c\n1,2,3\n", "row 1: column 2 of 3 has no name"),
        ("a,b,a\n1,2,3\n", "row 1: columns 1 and 3 are both named a"),
        ("a,b\n1,2\n1,2,3\n", "row 3 has 3 fields where the header has 2"),
        (
            "a,b,c\n1\n1,2,3\n1,2\n1,2,3,4\n1\n",
            "row 2 has 1 field, row 4 has 2 fields and row 5 has 4 fields where the header has 3; "
            "1 more row like that",
        ),
        ('a,b\n1,2\n3,"x\n4,5\n', "a quote is opened and never closed, likely in row 3 (line 3)"),
        (b"a,b\n\x00\x01,2\n", "not a text file: it holds zero bytes"),
        (b"\xff\xfea\x00,\x00\xd8", "it is not utf-16 at byte"),
    ],
)
def test_what_cannot_be_used_is_told_in_one_line(read, content, message):
    with pytest.raises(InputError) as caught:
        read(content)
    assert message in str(caught.value)
    assert "\n" not in str(caught.value)


def test_missing_files_and_folders(tmp_path):
    with pytest.raises(InputError, match="there is no file"):
        read_source(str(tmp_path / "none.csv"))
    with pytest.raises(InputError, match="is a folder"):
        read_source(str(tmp_path))


CELL = st.text(alphabet='ab ,;"\n0é', max_size=5)


@settings(max_examples=150)
@given(
    st.integers(1, 4).flatmap(
        lambda width: st.lists(st.lists(CELL, min_size=width, max_size=width), min_size=1)
    )
)
def test_both_readers_give_back_what_was_written(cells):
    names = [f"column {place}" for place in range(len(cells[0]))]
    text = io.StringIO()
    csv.writer(text, lineterminator="\n", quoting=csv.QUOTE_ALL).writerows([names, *cells])
    data = text.getvalue().encode()
    filled = [row for row in cells if any(cell.strip() for cell in row)]
    assume(filled)
    wished = Reading(header=(1, 1), last_row=10**6)
    careful = _read_carefully(data, text.getvalue(), ",", wished, "sheet.csv")
    assert careful.rows == filled
    fast = _read_fast(data, ",")
    assert (fast is not None) == (filled == cells)
    assert fast is None or fast.rows() == list(map(tuple, cells))


def test_a_file_of_many_blocks_keeps_every_cell(read):
    lines = [[f"D-{n:012d}", f"K{n * n % 9973}", "" if n % 7 else f"{n % 13}"] for n in range(200_000)]
    text = "no,code,mark\n" + "".join(",".join(line) + "\n" for line in lines)
    assert len(text) > 4 << 20
    source = read(text)
    assert rows(source) == list(map(tuple, lines))
    assert [column.distinct for column in source.relation.columns] == [
        200_000,
        len({line[1] for line in lines}),
        13,
    ]


@pytest.mark.parametrize(("last", "told"), [("1,2", "has 2 fields"), ('1,"2,3', "a quote is opened")])
def test_a_wrong_row_behind_many_blocks_is_named(read, last, told):
    lines = "".join(f"D-{n:024d},K{n % 97},{n % 13}\n" for n in range(160_000))
    assert len(lines) > 4 << 20
    with pytest.raises(InputError, match="row 160002") as refused:
        read(f"no,code,mark\n{lines}{last}\n")
    assert told in str(refused.value)
