"""The proof of a design: by the algebra of its rules, and on the rows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from pravix.design.independent import put_together
from pravix.design.model import Proof, Table
from pravix.design.rejoin import compared, found_rows, joined_back
from pravix.relation.grouping import blank_in
from pravix.relation.relation import Relation
from pravix.theory.decomposition import is_lossless, lost_dependencies
from pravix.theory.rule_set import RuleSet


def prove(relation: Relation, tables: Sequence[Table], main: Table, rules: RuleSet) -> Proof:
    """Check a design and return what was found.

    Tables of independent lists are taken as the one that they make together. By algebra: the chase (lossless
    join), dependency preservation, and the normal form of each table from its own projected dependencies. On
    the rows: all tables joined back and compared with the relation as multisets, and every foreign key looked
    up. Chase: polynomial in columns, tables and dependencies; rows: n log n for each table.
    """
    tables = put_together(tables)
    main = next((table for table in tables if set(main.identities) & set(table.identities)), main)
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


def joined_rows(tables: Sequence[Table], main: Table, columns: Sequence[str]) -> list[tuple[str, ...]]:
    """Return the rows of all tables joined to the main one, as texts; a cell told in two ways is lost."""
    joined = joined_back(tables, main)
    held = {column.name: column.values for table in tables for column in table.rows.columns}
    texts = [[held[name][code] if code >= 0 else "" for code in joined[name].tolist()] for name in columns]
    return list(zip(*texts, strict=True))


def with_part(proof: Proof, part: Proof, broken: Sequence[int]) -> Proof:
    """Return the proof of a file with that of the tables of some parts.

    ``broken`` are the rows whose cells do not come back from their parts.
    """
    return replace(
        proof,
        lossless_by_chase=proof.lossless_by_chase and part.lossless_by_chase,
        lost_dependencies=(*proof.lost_dependencies, *part.lost_dependencies),
        below_third=(*proof.below_third, *part.below_third),
        broken_links=(*proof.broken_links, *part.broken_links),
        unrepaired_rows=tuple(sorted({*proof.unrepaired_rows, *part.missing_rows, *broken})),
        wished_below=(*proof.wished_below, *part.wished_below),
        strange_rows=proof.strange_rows + part.strange_rows,
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
