"""Values that age with the calendar."""

from __future__ import annotations

from pravix.first_normal_form.finding import Finding, Topic
from pravix.relation.relation import Relation
from pravix.relation.types import Kind, column_type
from pravix.relation.words import words

AGEING = Topic("ageing", "Values that age with the calendar", "ages")

_AGE_WORDS = frozenset("age alter years_old".split())


def find_ageing(relation: Relation) -> list[Finding]:
    """Return a finding for each column of whole numbers that is called an age."""
    return [
        Finding(
            topic=AGEING,
            columns=(column.name,),
            told=f"{column.name} looks like an age: true on the day it was written and wrong a year later; "
            "store the date that it is counted from",
            sure=0.8,
        )
        for column in relation.columns
        if _AGE_WORDS & set(words(column.name)) and column_type(column).kind is Kind.INTEGER
    ]
