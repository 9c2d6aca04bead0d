"""Several people in one cell, names turned round, and numbers with the mark of a footnote."""

from random import Random

import pytest
from folders import folder_of

from pravix.first_normal_form.answer import Answer
from pravix.first_normal_form.findings import findings
from pravix.first_normal_form.footnotes import marked_numbers
from pravix.first_normal_form.lists import items, list_column, put_together
from pravix.folder.patch import write_patch
from pravix.proof.proving import prove_folder
from pravix.relation.relation import Column, Relation

PEOPLE = "Ida Moss|Bruno Holm|Pia Dale|Rolf Berg|Sven Aas|Una Lind".split("|")


def authors(last, count=90):
    draw = Random(4)
    some = [draw.sample(PEOPLE, draw.randint(1, 4)) for _ in range(count)]
    return [put_together(one, ", ", last) for one in some]


@pytest.mark.parametrize("last", [" and ", " & ", " und ", " et "])
def test_the_last_of_several_names_stands_after_a_word(last, tmp_path):
    cells = authors(last)
    found = list_column(Column.from_texts("authors", cells))
    assert (found.mark, found.last) == (",", last)
    assert all(found.evened(cell) == cell for cell in cells)
    relation = Relation.from_rows(["note", "authors"], [[f"N{n}", cell] for n, cell in enumerate(cells)])
    folder_of(relation, tmp_path / "made", [Answer("list: authors", "split")])
    assert all(holds for holds, _ in prove_folder(tmp_path / "made"))


def test_items_come_apart_as_they_were_put_together():
    for count in range(5):
        some = tuple(PEOPLE[:count])
        assert items(put_together(some, ", ", " and "), ",", " and ") == some


def test_names_that_never_come_again_are_no_list():
    cells = [f"Person A{n}, Person B{n} and Person C{n}" for n in range(40)]
    assert list_column(Column.from_texts("authors", cells)) is None


def test_a_name_turned_round_is_pointed_out():
    cells = [f"{PEOPLE[n % 6]}; {PEOPLE[(n + 1) % 6]}" for n in range(40)]
    cells += ["Moss, Ida; Bruno Holm"] * 2
    relation = Relation.from_rows(["readers"], [[cell] for cell in cells])
    (finding,) = findings(relation, topics=["list"])
    assert "1 item is another turned round, as Moss, Ida for Ida Moss" in finding.told


def test_other_separators_are_to_be_corrected_first():
    cells = [*authors(" and "), "Ida Moss, Pia Dale et al."]
    relation = Relation.from_rows(["authors"], [[cell] for cell in cells])
    (finding,) = findings(relation, topics=["list"])
    assert finding.answers in (("keep",), ("split", "keep"))


MARKED = ["12.4", "13.1*", "14.0", "12.9²", "15.5", "13.3 1)", *(f"{n}.{n % 7}" for n in range(10, 40))]


def test_marks_of_footnotes_are_pointed_out_and_taken_off_by_a_patch(tmp_path):
    relation = Relation.from_rows(["gross"], [[cell] for cell in MARKED])
    (finding,) = findings(relation, topics=["footnote"])
    assert "in 3 rows: 13.1* for 13.1, 12.9² for 12.9 and 13.3 1) for 13.3" in finding.told
    assert finding.rows == (3, 5, 7)
    assert write_patch(relation, (), str(tmp_path / "p.csv")) == 3
    lines = (tmp_path / "p.csv").read_text().splitlines()
    assert lines[1] == "3,gross,13.1*,13.1,without the mark of a footnote"


@pytest.mark.parametrize(
    "cells", [["12", "13a", "14"] * 5, ["1.5*"] * 9, ["x1", "y2"] * 9, ["3 kg", "4"] * 9]
)
def test_what_is_no_footnote_is_left_alone(cells):
    assert marked_numbers(Column.from_texts("gross", cells)) == []
