"""Whether tables in a database hold what a design says of them: keys and references, as queries."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from pravix.databases.database import Database
from pravix.document.model import DesignDocument


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
        for link in table.foreign_keys:
            there = link.references
            pairs = list(zip(link.columns, there.columns, strict=True))
            on = " AND ".join(f"p.{quoted(other)} = c.{quoted(own)}" for own, other in pairs)
            filled = " AND ".join(f"c.{quoted(own)} IS NOT NULL" for own, _ in pairs)
            yield Claim(
                f"{', '.join(link.columns)} of {table.name} is found in {there.table}",
                f"SELECT COUNT(*) FROM {name} c LEFT JOIN {quoted(there.table)} p ON {on}\n"
                f"WHERE {filled} AND p.{quoted(there.columns[0])} IS NULL",
            )
