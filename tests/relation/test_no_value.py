"""Words for no value: which are told apart from values that are written alike."""

import pytest
from packed import packed

from pravix.relation.no_value import no_value_codes, says_nothing_in
from pravix.relation.relation import Column, Relation


def words_among(cells):
    column = Column.from_texts("kg", cells)
    many = Column("kg", column.codes, packed(column.values))
    found = [[one.values[code] for code in no_value_codes(one)] for one in (column, many)]
    assert sorted(found[0]) == sorted(found[1])
    return sorted(found[0])


@pytest.mark.parametrize(
    ("cells", "words"),
    [
        (["7.5", "NA", "12", "", "NA"], ["NA"]),
        (["2024-05-01", "-", "2024-05-02"], ["-"]),
        (["GB", "NA", "DK"], []),
        (["heather", "none", "linden"], []),
        (["Heather", "NA", "Linden"], ["NA"]),
        (["heather", "n/a", "linden", "NULL"], ["NULL", "n/a"]),
        (["Moss", "Null", "Rowe"], []),
        (["None", "Queen only", "Queen & drones"], []),
        (["None", "2", "3.5"], ["None"]),
        (["+", "-"], []),
        (["-5", "-", "--", "?"], ["-", "--", "?"]),
        (["NA", "NA"], []),
        (["NA", ""], []),
        (["clover", "heather"], []),
    ],
)
def test_a_word_stands_for_no_value_where_no_other_is_written_like_it(cells, words):
    assert words_among(cells) == words


def test_rows_say_nothing_where_a_cell_is_blank_or_such_a_word():
    rows = [["7", "GB"], ["NA", "NA"], ["", "DK"], ["8", ""]]
    relation = Relation.from_rows(["kg", "country"], rows)
    assert says_nothing_in(relation, ["kg"]).tolist() == [False, True, True, False]
    assert says_nothing_in(relation, ["kg", "country"]).tolist() == [False, True, True, True]


def test_a_part_of_the_rows_has_the_words_of_these_rows():
    whole = Relation.from_rows(["kg"], [["7"], ["NA"], ["GB"]])
    assert not says_nothing_in(whole, ["kg"]).any()
    assert says_nothing_in(Relation.from_rows(["kg"], [["7"], ["NA"]]), ["kg"]).tolist() == [False, True]
