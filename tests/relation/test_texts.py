"""Many texts in one piece of memory behave as a list of them does."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from packed import CELLS, packed

from pravix.relation.hashes import text_hashes
from pravix.relation.texts import chosen, lengths, lines, together
from pravix.sources.coding import text_array


@given(CELLS, st.integers(-3, 14), st.integers(-3, 14), st.sampled_from([1, 2, 3]))
def test_they_are_read_as_a_list_is(cells, start, stop, step):
    texts = packed(cells)
    assert len(texts) == len(cells)
    assert list(texts) == cells
    assert [texts[place] for place in range(-len(cells), len(cells))] == cells + cells
    assert list(texts[start:stop:step]) == cells[start:stop:step]
    assert together(texts) == together(cells) == "".join(cells)
    assert lines(texts) == lines(cells)
    assert lengths(texts).tolist() == lengths(cells).tolist() == list(map(len, cells))
    assert list(texts.ended(";")) == [cell + ";" for cell in cells]
    assert chosen(texts, range(len(cells))) == cells
    assert all(cell in texts and texts.index(cell) == cells.index(cell) for cell in cells)
    assert "not there" not in texts
    assert text_array(texts[1:]).to_pylist() == cells[1:]
    assert text_hashes(texts).tolist() == text_hashes(cells).tolist()


def test_a_place_beyond_the_end_is_an_error():
    with pytest.raises(IndexError):
        packed(["K-001"])[1]
    with pytest.raises(ValueError, match="not in list"):
        packed(["K-001"]).index("K-002")


@given(st.lists(st.from_regex(r"-?0?[0-9]{0,20}x?", fullmatch=True) | st.integers().map(str)))
def test_whole_numbers_are_those_whose_text_comes_back(cells):
    numbers, plain = packed(cells).plain_numbers()
    for cell, number, told in zip(cells, numbers.tolist(), plain.tolist(), strict=True):
        known = cell.lstrip("-").isdecimal() and str(int(cell)) == cell and len(cell.lstrip("-")) <= 18
        assert (number, told) == (int(cell) if known else 0, known)
