"""What differs between engines where rows are counted and tested in place, in SQLAlchemy's expressions.

The first class is for any database with a dialect of SQLAlchemy. It needs sub-queries in FROM, GROUP BY,
COUNT, MIN, MAX, CASE, COALESCE and CAST to text; ``lacking`` tries them.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from operator import eq
from typing import Any, ClassVar

from sqlalchemy import (
    BigInteger,
    Boolean,
    Date,
    DateTime,
    Integer,
    Numeric,
    String,
    Text,
    and_,
    case,
    cast,
    collate,
    column,
    func,
    literal,
    literal_column,
    or_,
    select,
    text,
    true,
    tuple_,
    values,
)
from sqlalchemy.dialects.mysql import CHAR
from sqlalchemy.types import NullType

from pravix.databases.spark_dialect import PARQUET
from pravix.sources.told import cell_told

SPACES = "\t\n\v\f\r\x1c\x1d\x1e\x1f \x85\xa0\u1680" + "".join(map(chr, range(0x2000, 0x200B)))
SPACES += "\u2028\u2029\u202f\u205f\u3000"
"""What counts as a space around a cell, as in Python."""

_SEED = 7
_SPREAD = 1_000_003
_ALIAS = "flat rows"


class Adaptor:
    """An engine of which nothing is known but its dialect."""

    name: ClassVar[str] = ""
    settings: ClassVar[tuple[str, ...]] = ()
    """Statements that begin a look at one state of all rows, whatever others change."""

    one_state: ClassVar[bool] = True
    """Whether all statements see one state of the rows, whatever others change meanwhile."""

    text_type: ClassVar[Any] = Text()

    def named(self, source: Any) -> Any:
        """Return a table as it stands in FROM."""
        return source

    def as_text(self, cell: Any) -> Any:
        """Return a cell as a text."""
        return cast(cell, self.text_type)

    def written(self) -> Adaptor:
        """Return the adaptor for statements that others carry out."""
        return self

    def bytewise(self, cell: Any) -> Any:
        """Return a text so that two are equal only if every byte is."""
        return cell

    def stripped(self, cell: Any) -> Any:
        """Return a text without the spaces around it."""
        return func.trim(cell)

    def has_outer_spaces(self, cell: Any) -> Any:
        """Return the condition that a text has spaces around it."""
        return cell != self.stripped(cell)

    def told_by_itself(self, kind: Any) -> bool:
        """Whether values of a type are equal exactly where their texts are, and quicker to compare."""
        if isinstance(kind, Numeric):
            return kind.asdecimal and kind.scale is not None
        return isinstance(kind, Integer | Date | DateTime) and not getattr(kind, "timezone", False)

    def is_text(self, kind: Any) -> bool:
        """Whether the values of a type are texts already."""
        return isinstance(kind, String) and not isinstance(kind, NullType)

    def length(self, cell: Any) -> Any:
        """Return how many characters a text has."""
        return func.char_length(cell)

    def matches(self, cell: Any, pattern: str) -> Any:
        """Return the condition that a text is as a regular expression says; None where that is not known."""
        return None

    def sliced(self, cells: Sequence[Any], parts: int) -> Any:
        """Return a condition that takes about one in ``parts`` of the different cells; None where it
        cannot.
        """
        return None

    terms: ClassVar[int] = 40
    """How many alternatives a condition may have before it is slow."""

    def one_of(self, cells: Sequence[Any], keys: Sequence[Sequence[Any]]) -> Any:
        """Return the condition that some cells are as in one of some keys."""
        return or_(*(and_(true(), *map(eq, cells, key)) for key in keys))

    def short(self, cell: Any) -> Any:
        """Return a number that differs only where cells differ, and mostly does; None where that does not
        pay.
        """
        return None

    def among(self, number: Any, numbers: Sequence[int]) -> Any:
        """Return the condition that the number of a row is one of some."""
        return number.in_(numbers)

    def sampled(self, share: float, table: bool) -> Any:
        """Return a condition that takes about a share of all rows, of a ``table`` the same every time.

        None where nothing is known of chance: then the first rows must do.
        """
        return None

    def columns(self, ask: Any, source: Any) -> Mapping[str, Any] | None:
        """Return the types of the columns of a table by name, where SQLAlchemy cannot tell them."""
        return None

    def begun(self, driver: Any) -> None:
        """Prepare a connection of the driver."""

    def cancel(self, driver: Any, engine: Any) -> None:
        """Stop what a connection of the driver is doing; called from another thread."""
        driver.close()

    def lacking(self) -> Any:
        """Return a statement that uses all that is needed."""
        inner = select(literal("x").label("a"), func.count().label("n"), func.min(literal("b")).label("lo"))
        told = inner.subquery()
        broken = case((func.coalesce(told.c.lo, "") != "c", 1), else_=0)
        return select(func.count(), func.max(broken), func.sum(cast(told.c.n, BigInteger))).select_from(told)


class _Unknown(Adaptor):
    """An engine that nobody has tried."""

    one_state = False


class _WithPatterns(Adaptor):
    """An engine that knows regular expressions as SQLAlchemy writes them."""

    def matches(self, cell: Any, pattern: str) -> Any:
        """As said there."""
        return cell.regexp_match(pattern)


class _ByValues(_WithPatterns):
    """An engine that looks rows up in a list of values, in one pass over them."""

    terms = 1_000

    def one_of(self, cells: Sequence[Any], keys: Sequence[Sequence[Any]]) -> Any:
        """As said there."""
        if not cells:
            return super().one_of(cells, keys)
        columns = (column(f"k{n}", cell.type) for n, cell in enumerate(cells))
        return tuple_(*cells).in_(select(values(*columns, name="given").data(list(map(tuple, keys)))))


class PostgreSQL(_ByValues):
    """PostgreSQL 12 and later."""

    name = "postgresql"
    settings = (
        "SET TRANSACTION ISOLATION LEVEL REPEATABLE READ READ ONLY",
        "SELECT set_config(name, '2s', true) FROM pg_settings "
        "WHERE name = 'client_connection_check_interval'",
    )
    """With the second one the server ends a statement soon when its client is gone."""

    def cancel(self, driver: Any, engine: Any) -> None:
        """As said there."""
        driver.cancel()

    def bytewise(self, cell: Any) -> Any:
        """As said there."""
        return collate(cell, "C")

    def stripped(self, cell: Any) -> Any:
        """As said there."""
        return func.btrim(cell, SPACES)

    def sliced(self, cells: Sequence[Any], parts: int) -> Any:
        """As said there."""
        mixed: Any = literal(0, BigInteger)
        for cell in cells:
            mixed = mixed * 31 % 65_521 + func.hashtext(self.as_text(cell)) % 65_521
        return mixed % parts == 0

    def sampled(self, share: float, table: bool) -> Any:
        """As said there: by a hash of the place of the row."""
        if not table:
            return func.random() < share
        place = self.as_text(literal_column("ctid"))
        return func.abs(func.hashtext(place) % _SPREAD) < int(share * _SPREAD)


class MySQL(_WithPatterns):
    """MySQL and MariaDB, which call texts equal that differ in case, in accents or in spaces at the end."""

    name = "mysql"
    settings = ("START TRANSACTION WITH CONSISTENT SNAPSHOT, READ ONLY",)
    text_type = String()

    def cancel(self, driver: Any, engine: Any) -> None:
        """As said there: by a connection of its own."""
        with engine.connect() as other:
            other.execute(text(f"KILL QUERY {driver.thread_id()}"))

    collation: ClassVar[str] = "utf8mb4_0900_bin"

    def as_text(self, cell: Any) -> Any:
        """As said there."""
        return cast(cell, CHAR(charset="utf8mb4"))

    def bytewise(self, cell: Any) -> Any:
        """As said there."""
        return collate(self.as_text(cell), self.collation)

    def stripped(self, cell: Any) -> Any:
        """As said there."""
        return self.bytewise(
            func.regexp_replace(func.regexp_replace(cell, f"^[{SPACES}]+", ""), f"[{SPACES}]+$", "")
        )

    def sliced(self, cells: Sequence[Any], parts: int) -> Any:
        """As said there."""
        return func.crc32(func.concat_ws("|", *cells)) % parts == 0

    def sampled(self, share: float, table: bool) -> Any:
        """As said there."""
        return func.rand(_SEED) < share


class MariaDB(MySQL):
    """MariaDB 10.5 and later."""

    name = "mariadb"
    collation = "utf8mb4_nopad_bin"


class SQLite(_WithPatterns):
    """SQLite, whose columns hold cells of any type; a function of ours tells each as a text."""

    name = "sqlite"
    settings = ("BEGIN",)

    def written(self) -> Adaptor:
        """As said there: without our function."""
        return _PlainSQLite()

    def begun(self, driver: Any) -> None:
        """As said there: with the function that tells cells as texts."""
        driver.create_function("pravix_text", 1, cell_told, deterministic=True)

    def cancel(self, driver: Any, engine: Any) -> None:
        """As said there."""
        driver.interrupt()

    def as_text(self, cell: Any) -> Any:
        """As said there: by the function that tells the cells of all databases."""
        return func.pravix_text(cell)

    def told_by_itself(self, kind: Any) -> bool:
        """As said there: never, for a cell may be of another type than its column."""
        return False

    def is_text(self, kind: Any) -> bool:
        """As said there: never."""
        return False

    def length(self, cell: Any) -> Any:
        """As said there."""
        return func.length(cell)

    def bytewise(self, cell: Any) -> Any:
        """As said there."""
        return collate(cell, "BINARY")

    def stripped(self, cell: Any) -> Any:
        """As said there."""
        return func.trim(cell, SPACES)

    def sampled(self, share: float, table: bool) -> Any:
        """As said there: by the number of the row."""
        if not table:
            return func.abs(func.random() % _SPREAD) < int(share * _SPREAD)
        spread = literal_column("rowid", BigInteger) * 2_654_435_761 % 4_294_967_296
        return spread < int(share * 4_294_967_296)


class _PlainSQLite(SQLite):
    """SQLite without functions of ours."""

    def as_text(self, cell: Any) -> Any:
        """As said there."""
        return cast(cell, Text())


class DuckDB(_ByValues):
    """DuckDB 1.0 and later."""

    name = "duckdb"

    def cancel(self, driver: Any, engine: Any) -> None:
        """As said there."""
        driver.interrupt()

    def stripped(self, cell: Any) -> Any:
        """As said there."""
        return func.trim(cell, SPACES)

    def sliced(self, cells: Sequence[Any], parts: int) -> Any:
        """As said there."""
        return func.hash(*cells) % _number(parts) == 0

    def sampled(self, share: float, table: bool) -> Any:
        """As said there: by a hash of the number of the row."""
        if not table:
            return func.random() < share
        return func.hash(literal_column("rowid", BigInteger)) % _number(_SPREAD) < int(share * _SPREAD)

    def among(self, number: Any, numbers: Sequence[int]) -> Any:
        """As said there: a sub-query is looked up, a list is not."""
        listed = ", ".join(str(int(one)) for one in dict.fromkeys(numbers))
        return number.in_(text(f"SELECT unnest([{listed}]::BIGINT[])"))

    def columns(self, ask: Any, source: Any) -> Mapping[str, Any]:
        """As said there."""
        described = ask(
            text(str(select(text("*")).select_from(source)).replace("SELECT", "DESCRIBE SELECT", 1))
        )
        return {str(name): _DUCKDB_TYPES.get(str(kind), NullType()) for name, kind, *_ in described}


class Spark(_WithPatterns):
    """Spark 3.5 and later. It keeps no state of all rows: nobody may write to them meanwhile."""

    name = "spark"
    one_state = False

    def named(self, source: Any) -> Any:
        """As said there: what is a path in a schema of paths cannot name its columns."""
        return source.alias(_ALIAS) if source.schema == PARQUET else source

    def cancel(self, driver: Any, engine: Any) -> None:
        """As said there."""
        driver.interrupt()

    def stripped(self, cell: Any) -> Any:
        """As said there."""
        return func.btrim(cell, SPACES)

    def has_outer_spaces(self, cell: Any) -> Any:
        """As said there: by the first and the last letter, which is quicker than to strip."""
        return or_(*(end(cell, _number(1)).in_(list(SPACES)) for end in (func.left, func.right)))

    terms = 1_000

    def one_of(self, cells: Sequence[Any], keys: Sequence[Sequence[Any]]) -> Any:
        """As said there: a list of structures is looked up in a table of hashes."""
        return tuple_(*cells).in_(list(map(tuple, keys))) if cells else super().one_of(cells, keys)

    def short(self, cell: Any) -> Any:
        """As said there: the least of texts is found by sorting, that of numbers is not."""
        return func.xxhash64(cell, type_=BigInteger)

    def sliced(self, cells: Sequence[Any], parts: int) -> Any:
        """As said there."""
        return func.pmod(func.hash(*cells), _number(parts)) == 0

    def sampled(self, share: float, table: bool) -> Any:
        """As said there: the same every time where the files are."""
        return func.rand(_number(_SEED)) < share


_DUCKDB_TYPES = {
    **{f"{sign}{size}INT": BigInteger() for sign in ("", "U") for size in ("TINY", "SMALL", "BIG")},
    "INTEGER": Integer(),
    "UINTEGER": BigInteger(),
    "DATE": Date(),
    "BOOLEAN": Boolean(),
    "VARCHAR": Text(),
}


def _number(number: int) -> Any:
    """Return a number as it is written: as a parameter it would be wider, and the arithmetic slower."""
    return literal_column(str(number), BigInteger)


_KNOWN = {one.name: one for one in (PostgreSQL(), MySQL(), MariaDB(), SQLite(), DuckDB(), Spark())}


def adaptor_for(name: str) -> Adaptor:
    """Return what is known of an engine by the name of its dialect."""
    return _KNOWN.get(name) or _Unknown()
