"""The hashes of rows do not depend on how their texts are kept."""

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from packed import CELLS, packed
from proofs import of_cells, of_rows

from pravix.document import row_hashes
from pravix.document.row_hashes import Form, of_relation
from pravix.relation.relation import Column, Relation


def hashed(column, form):
    numbers = np.arange(len(column.codes), dtype=np.int64)
    return of_relation(Relation((column,), numbers), [form]).hashes.tolist()


def same_hashes(cells):
    codes = np.arange(len(cells), dtype=np.int32)
    many, few = Column("a", codes, packed(cells)), Column("a", codes, cells)
    return all(hashed(many, form) == hashed(few, form) for form in Form)


@given(CELLS)
def test_hashes_of_many_texts_are_those_of_few(cells):
    assert same_hashes(["", *filter(None, dict.fromkeys(cells))])


@given(st.lists(st.text(st.characters(exclude_categories=["Cs"]), max_size=30), min_size=1))
@example(["", "\1", "\0", "\0\0", "b", "a\0", "c\0\0", "12345678", "12345678\0"])
def test_a_text_has_the_same_hash_whatever_is_around_it(cells):
    many = of_cells([cells], [Form.TEXT]).hashes.tolist()
    alone = [of_cells([[cell]], [Form.TEXT]).hashes.tolist()[0] for cell in cells]
    assert many == alone == of_rows([[cell] for cell in cells], [Form.TEXT]).hashes.tolist()
    assert len(set(map(tuple, alone))) == len(set(cells))


@pytest.mark.parametrize("cell", ["Åby", "a\0", "\0", "\1", "x" * 24, "x" * 25, "ö" * 12, "ö" * 13, ""])
def test_letters_beyond_ascii_and_long_texts_change_no_other_hash(cell):
    many, few = [f"V{n}" for n in range(10_001)] + [cell], ["V7", cell]
    assert hashed(Column("a", np.array([7, 10_001], np.int32), packed(["", *many[1:]])), Form.TEXT) == hashed(
        Column("a", np.arange(1, 3, dtype=np.int32), ["", *few]), Form.TEXT
    )
    assert (
        of_cells([many], [Form.TEXT]).hashes[[7, -1]].tolist() == of_cells([few], [Form.TEXT]).hashes.tolist()
    )


@pytest.mark.parametrize(
    "cells",
    [
        ["", "12", "-7", "0", "999999999999999999"],
        ["", "1.50", "-0.25", "0", "12345678901234.5"],
        ["007", "x"],
    ],
)
def test_hashes_of_many_numbers_are_those_of_few(cells):
    assert same_hashes(cells)


def test_hashes_of_many_rows_are_those_of_few(monkeypatch):
    draw = np.random.default_rng(4)
    columns = [Column.from_texts(str(n), draw.integers(0, 9, 500).astype(str).tolist()) for n in range(3)]
    numbers, forms = np.arange(500), [Form.WHOLE, Form.TEXT, Form.DECIMAL]
    few = of_relation(Relation(tuple(columns), numbers), forms).hashes.tolist()
    monkeypatch.setattr(row_hashes, "_ROWS_AT_ONCE", 200)
    many = of_relation(Relation(tuple(columns), numbers), forms).hashes.tolist()
    assert many == few
