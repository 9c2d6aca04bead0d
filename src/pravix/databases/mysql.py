"""MySQL and MariaDB, where a table that is created ends the transaction."""

from __future__ import annotations

import unicodedata
from collections.abc import Sequence
from shlex import quote
from typing import TYPE_CHECKING, ClassVar

from pravix.databases.database import Database
from pravix.relation.types import Kind

if TYPE_CHECKING:
    from sqlalchemy.engine import URL

_BASIC_PLANE = 0xFFFF


def without_accents(name: str) -> str:
    """Return what is equal for names that differ in case or accents only."""
    plain = unicodedata.normalize("NFKD", name.casefold())
    return "".join(mark for mark in plain if not unicodedata.combining(mark))


class MySQL(Database):
    """MySQL 8."""

    name = "mysql"
    driver = "mysql+pymysql"
    module = "mysql"
    session = "pravix.loading.staging:staged_session"
    collation = "utf8mb4_0900_bin"
    name_limit = 64
    script_head = ("SET NAMES utf8mb4;\n\n",)
    carriage_return = "CHAR(13 USING utf8mb4)"
    text_type = "CHAR"
    client_program: ClassVar[str] = "mysql"

    def typed(self, sql: str, kind: Kind, type_name: str) -> str:
        """As said there: whole numbers and texts are told in words of their own."""
        if kind is Kind.INTEGER:
            return f"CAST({sql} AS SIGNED)"
        as_type = (kind is Kind.DECIMAL or kind.stored_form) and "CHAR" not in type_name
        return super().typed(sql, kind, type_name.replace("NUMERIC", "DECIMAL")) if as_type else sql

    def with_items(self, rows: str, cell: str, mark: str) -> tuple[str, str, str]:
        """As said there: by way of JSON."""
        listed = f"""CONCAT('[', REPLACE(JSON_QUOTE({cell}), {self.text(mark)}, '","'), ']')"""
        columns = "COLUMNS (place FOR ORDINALITY, item TEXT PATH '$')"
        return f"{rows} CROSS JOIN JSON_TABLE({listed}, '$[*]' {columns}) i", "i.item", "i.place"

    def locking(self, tables: Sequence[str]) -> tuple[str, ...]:
        """As said there."""
        return tuple(f"SELECT COUNT(*) FROM {self.quoted(name)} FOR UPDATE" for name in tables)

    @property
    def key_ending(self) -> int:
        """As said there: a foreign key is named after its table."""
        return len("_ibfk_99")

    def fit(self, name: str, spare: int = 0, relation: bool = False) -> str:
        """As said there: no character beyond the basic plane, no space at the end."""
        plain = "".join("_" if ord(mark) > _BASIC_PLANE else mark for mark in name)
        cut = super().fit(plain, spare, relation)
        return cut[: len(cut.rstrip())] + "_" * (len(cut) - len(cut.rstrip()))

    def folded(self, name: str) -> str:
        """As said there: case and accents are ignored."""
        return without_accents(name)

    def literal(self, value: str) -> str:
        """As said there: a backslash escapes."""
        return super().literal(value).replace("\\", "\\\\")

    def put_together(self, parts: Sequence[str]) -> str:
        """As said there."""
        return f"CONCAT({', '.join(parts)})"

    def listed(self, item: str, order: str, mark: str) -> str:
        """As said there."""
        return f"GROUP_CONCAT({item} ORDER BY {order} SEPARATOR {mark})"

    def days_between(self, earlier: str, later: str) -> str:
        """As said there."""
        return f"DATEDIFF({later}, {earlier})"

    def days_after(self, day: str, days: str) -> str:
        """As said there."""
        return f"DATE_ADD({day}, INTERVAL {days} DAY)"

    def as_whole(self, sql: str) -> str:
        """As said there."""
        return f"CAST({sql} AS SIGNED)"

    def years_between(self, earlier: str, later: str) -> str:
        """As said there."""
        return f"TIMESTAMPDIFF(YEAR, {earlier}, {later})"

    def client(self, address: URL, query: str) -> str:
        """As said there."""
        where = f"-h {address.host} -P {address.port or 3306} -u {address.username} -p {address.database}"
        return f"{self.client_program} {where} -e {quote(query)}"


class MariaDB(MySQL):
    """MariaDB 10.5 and later."""

    name = "mariadb"
    driver = "mariadb+pymysql"
    collation = "utf8mb4_nopad_bin"
    client_program = "mariadb"
