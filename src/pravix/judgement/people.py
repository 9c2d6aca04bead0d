"""Columns of people's names: two people may share one, so that a name identifies nobody unasked."""

from __future__ import annotations

import re

from pravix.judgement.column_roles import looked_at
from pravix.relation.lexicon import PEOPLE_WORDS, PERSON_WORDS
from pravix.relation.relation import Column
from pravix.relation.words import words

_PLAIN = re.compile(r"[^\W\d_][\w.'’-]*(?: [^\W\d_][\w.'’-]*){1,3}")
_FORMAL = re.compile(r"[^\W\d_][\w'’-]+, [^\W\d_][\w.'’ -]*|(?:[^\W\d_]\. ?){1,3}[^\W\d_][\w'’-]+")
_MOSTLY = 0.85


def holds_people(column: Column) -> bool:
    """Whether a column holds people's names: by the form of its values, and by what it is called.

    ``R. Dale`` and ``Moss, Ida`` are names whatever the column is called. Of very many values some tell.
    """
    values = looked_at(column)
    if not values:
        return False
    if sum(map(bool, map(_FORMAL.fullmatch, values))) >= _MOSTLY * len(values):
        return True
    called = bool((PERSON_WORDS | PEOPLE_WORDS) & set(words(column.name)))
    return called and sum(map(bool, map(_PLAIN.fullmatch, values))) >= _MOSTLY * len(values)
