"""The proof of a design: by the algebra of its rules, and on the rows."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from pravix.design.model import Proof, Table
from pravix.design.rejoin import compared, found_rows, joined_back
from pravix.relation.grouping import blank_in
from pravix.relation.relation import Relation
from pravix.theory.decomposition import is_lossless, lost_dependencies
from pravix.theory.rule_set import RuleSet


def prove(relation: Relation, tables: Sequence[Table], main: Table, rules: RuleSet) -> Proof:
    """Check a design and return what was found.

    By algebra: the chase (lossless join), dependency preservation, and the normal form of each table
    from its own projected dependencies. On the rows: all tables joined back and compared with the
    relation as multisets, and every foreign key looked up. Chase: polynomial in columns, tables and
    dependencies; rows: n log n for each table.
    """
    schemes = [table.column_names for table in tables]
    columns = {name for scheme in schemes for name in scheme} | set(relation.names)
    comparison = compared(relation, joined_back(tables, main))
    return Proof(
        lossless_by_chase=is_lossless(columns, schemes, rules),
        lost_dependencies=lost_dependencies(schemes, rules),
        below_third=tuple(
            table.identities[0] for table in tables if not rules.form(table.column_names).form.third
        ),
        rejoined_rows=comparison.joined,
        missing_rows=comparison.missing_rows,
        strange_rows=comparison.strange_rows,
        broken_links=_broken_links(tables),
    )


def _broken_links(tables: Sequence[Table]) -> tuple[tuple[str, int], ...]:
    by_name = {table.name: table for table in tables}
    broken = []
    for table in tables:
        for link in table.foreign_keys:
            other = by_name[link.table]
            found = found_rows(
                [table.rows.column(name).codes for name in link.columns],
                [other.rows.column(name).codes for name in link.references],
            )
            lost = (found < 0) & ~blank_in(table.rows, link.columns)
            broken += [
                (table.identities[0], number)
                for number in table.rows.row_numbers[np.flatnonzero(lost)].tolist()
            ]
    return tuple(broken)
