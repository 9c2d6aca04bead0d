"""Whether tables in a database hold what a design says of them: keys and references, as queries."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from pravix.databases.database import Database
from pravix.document.model import DesignDocument, TableDocument


@dataclass(frozen=True)
class Claim:
    """What must be so, in words, and the query that counts what is against it."""

    told: str
    against: str


def claims(document: DesignDocument, database: Database) -> Iterator[Claim]:
    """Yield a claim for each key and each reference of the tables of a design."""
    quoted = database.quoted
    for table in document.tables:
        name = quoted(table.name)
        for key in dict.fromkeys([table.primary_key, *table.candidate_keys]):
            listed = ", ".join(map(quoted, key))
            some = f"SELECT {listed} FROM {name} GROUP BY {listed} HAVING COUNT(*) > 1"
            filled = " OR ".join(f"{quoted(one)} IS NULL" for one in key)
            yield Claim(
                f"{', '.join(key)} identifies a row of {table.name}",
                f"SELECT (SELECT COUNT(*) FROM ({some}) s) + (SELECT COUNT(*) FROM {name} WHERE {filled})",
            )
    yield from reference_claims(document.tables, database)


def reference_claims(tables: Sequence[TableDocument], database: Database) -> Iterator[Claim]:
    """Yield a claim for each reference of some tables.

    What is against it is counted in rows, but each different value is looked up once: where the columns have
    an index, that takes no sorting.
    """
    quoted = database.quoted
    for table in tables:
        for link in table.foreign_keys:
            there = link.references
            pairs = list(zip(link.columns, there.columns, strict=True))
            own = ", ".join(quoted(one) for one, _ in pairs)
            filled = " AND ".join(f"{quoted(one)} IS NOT NULL" for one, _ in pairs)
            on = " AND ".join(f"p.{quoted(other)} = c.{quoted(one)}" for one, other in pairs)
            different = f"SELECT {own}, COUNT(*) AS n FROM {quoted(table.name)} WHERE {filled} GROUP BY {own}"
            yield Claim(
                f"{', '.join(link.columns)} of {table.name} is found in {there.table}",
                f"SELECT COALESCE(SUM(c.n), 0) FROM ({different}) c\n"
                f"LEFT JOIN {quoted(there.table)} p ON {on} WHERE p.{quoted(there.columns[0])} IS NULL",
            )
