"""The hashes of rows do not depend on how their texts are kept."""

import numpy as np
import pytest
from hypothesis import given
from packed import CELLS, packed

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
    numbers, forms = np.arange(500), [Form.WHOLE, Form.TEXT, Form.WRITTEN]
    few = of_relation(Relation(tuple(columns), numbers), forms).hashes.tolist()
    monkeypatch.setattr(row_hashes, "_ROWS_AT_ONCE", 200)
    many = of_relation(Relation(tuple(columns), numbers), forms).hashes.tolist()
    assert many == few
