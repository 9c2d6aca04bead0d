"""Words in cells that stand for no value, where a blank is meant."""

from __future__ import annotations

import shlex

from pravix.first_normal_form.finding import Finding, Topic
from pravix.relation.no_value import UNMISTAKABLE, no_value_codes
from pravix.relation.relation import Column, Relation
from pravix.relation.types import Kind, column_type
from pravix.wording import counted, joined, shortened

NO_VALUE = Topic("no value", "Words for no value", "words for no value")

_NAMED = 4
_PLAIN_KINDS = {
    Kind.INTEGER: "numbers",
    Kind.DECIMAL: "numbers",
    Kind.DATE: "dates",
    Kind.MOMENT: "dates",
    Kind.TIME: "times",
}


def find_words_for_nothing(relation: Relation) -> list[Finding]:
    """Return a finding for each word that stands for no value, with the columns where it does.

    Linear in the cells.
    """
    columns: dict[str, list[Column]] = {}
    for column in relation.columns:
        for code in no_value_codes(column):
            columns.setdefault(column.values[code], []).append(column)
    return [_finding(word, found, relation) for word, found in columns.items()]


def _finding(word: str, columns: list[Column], relation: Relation) -> Finding:
    names = [column.name for column in columns]
    stands = [f"{shortened(one.name)}{_times(one, word)}" for one in columns[:_NAMED]]
    if len(columns) > _NAMED:
        stands.append(counted(len(columns) - _NAMED, "other column"))
    kinds = {_others(one, word) for one in columns}
    besides = f", where all else are {joined(sorted(kinds))}" if "" not in kinds else ""
    elsewhere = any(word in one.value_set for one in relation.columns if one.name not in names)
    wishes = [f"{name}={word}" for name in names[:_NAMED]] if elsewhere else [word]
    options = " ".join(f"--blank {shlex.quote(wish)}" for wish in wishes)
    options += " and so on" if len(wishes) < len(names) and elsewhere else ""
    first = columns[0]
    rows = relation.row_numbers[first.codes == first.values.index(word)]
    return Finding(
        topic=NO_VALUE,
        columns=tuple(names),
        told=f"{word} stands in {joined(stands)}{besides}: {options} reads it as a blank",
        sure=0.97 if besides or word in UNMISTAKABLE else 0.8,
        rows=tuple(rows[:5].tolist()),
    )


def _times(column: Column, word: str) -> str:
    """Return in how many rows a column holds a word; nothing where these are only some of its rows."""
    rows = int(column.counts[column.values.index(word)])
    return "" if column.whole is not None else f" ({counted(rows, 'row')})"


def _others(column: Column, word: str) -> str:
    """Return what the other values of a column are, if they are numbers, dates or times."""
    nothing = {column.values[code] for code in no_value_codes(column)} | {word}
    rest = (value for value in column.present_values if value not in nothing)
    return _PLAIN_KINDS.get(column_type(Column.from_texts(column.name, rest)).meant, "")
