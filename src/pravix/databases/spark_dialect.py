"""Spark's SQL as a dialect of SQLAlchemy: what is asked of flat tables, and what makes tables."""

from __future__ import annotations

import re
from typing import Any

from sqlalchemy import (
    BigInteger,
    Boolean,
    Date,
    DateTime,
    Float,
    Integer,
    LargeBinary,
    Numeric,
    Text,
)
from sqlalchemy.engine import default, reflection
from sqlalchemy.exc import NoSuchTableError
from sqlalchemy.sql import compiler
from sqlalchemy.types import NullType

PARQUET = "parquet"
"""The schema whose tables are the paths of Parquet files and folders, as Spark itself says it."""

_TYPES = {
    "tinyint": Integer(),
    "smallint": Integer(),
    "int": Integer(),
    "bigint": BigInteger(),
    "float": Float(),
    "double": Float(),
    "string": Text(),
    "boolean": Boolean(),
    "date": Date(),
    "timestamp": DateTime(timezone=True),
    "timestamp_ntz": DateTime(),
    "binary": LargeBinary(),
}
_OTHER = re.compile(r"[^0-9A-Za-z_]")
_DECIMAL = re.compile(r"decimal\((\d+),(\d+)\)")


class _Names(compiler.IdentifierPreparer):
    def __init__(self, dialect: Any, **options: Any) -> None:
        super().__init__(dialect, initial_quote="`", escape_quote="`", **options)


class _Statements(compiler.SQLCompiler):
    def bindparam_string(self, name: str, *further: Any, **options: Any) -> str:
        """As said there: Spark's parameters have names of ASCII letters, and begin with one."""
        plain = "p_" + _OTHER.sub(lambda mark: f"_{ord(mark[0])}_", name)
        return super().bindparam_string(plain, *further, **{**options, "escaped_from": name})

    def visit_regexp_match_op_binary(self, binary: Any, operator: Any, **options: Any) -> str:
        """As said there."""
        return self._generate_generic_binary(binary, " RLIKE ", **options)

    def visit_not_regexp_match_op_binary(self, binary: Any, operator: Any, **options: Any) -> str:
        """As said there."""
        return self._generate_generic_binary(binary, " NOT RLIKE ", **options)

    def render_literal_value(self, value: Any, type_: Any) -> str:
        """As said there: texts as Spark escapes them."""
        return escaped(value) if isinstance(value, str) else super().render_literal_value(value, type_)


def escaped(value: str) -> str:
    """Return a text as a literal."""
    inside = value.replace("\\", "\\\\").replace("'", "\\'")
    return f"'{inside}'"


class _Types(compiler.GenericTypeCompiler):
    def visit_VARCHAR(self, type_: Any, **options: Any) -> str:  # noqa: N802
        """As said there: texts of any length."""
        return "STRING"

    visit_TEXT = visit_NVARCHAR = visit_CHAR = visit_VARCHAR  # noqa: N815

    def visit_datetime(self, type_: Any, **options: Any) -> str:
        """As said there: without a time zone, so that it is told as it was."""
        return "TIMESTAMP_NTZ"

    def visit_NUMERIC(self, type_: Any, **options: Any) -> str:  # noqa: N802
        """As said there."""
        return super().visit_DECIMAL(type_, **options)

    def visit_INTEGER(self, type_: Any, **options: Any) -> str:  # noqa: N802
        """As said there."""
        return "INT"


class _Definitions(compiler.DDLCompiler):
    def create_table_constraints(self, table: Any, *further: Any, **options: Any) -> str:
        """As said there: none, for Spark keeps none."""
        return ""

    def get_column_specification(self, column: Any, **options: Any) -> str:
        """As said there."""
        kind = self.dialect.type_compiler_instance.process(column.type, type_expression=column)
        made = f"{self.preparer.format_column(column)} {kind}"
        if not column.nullable:
            made += " NOT NULL"
        if column.comment:
            literal = self.sql_compiler.render_literal_value(column.comment, Text())
            made += f" COMMENT {literal}"
        return made

    def post_create_table(self, table: Any) -> str:
        """As said there: the rows lie in Parquet."""
        made = "\nUSING PARQUET"
        if table.comment:
            made += f"\nCOMMENT {self.sql_compiler.render_literal_value(table.comment, Text())}"
        return made


class SparkDialect(default.DefaultDialect):
    """Spark 3.5 and later by Spark Connect; see ``pravix.databases.spark_driver``."""

    name = "spark"
    driver = "connect"
    default_paramstyle = "named"
    supports_statement_cache = True
    supports_native_boolean = True
    supports_native_decimal = True
    supports_comments = True
    inline_comments = True
    supports_sane_rowcount = False
    max_identifier_length = 255
    preparer: Any = _Names
    statement_compiler = _Statements
    type_compiler_cls = _Types
    ddl_compiler = _Definitions

    @classmethod
    def import_dbapi(cls) -> Any:
        """As said there. Raises ImportError where Spark's client is missing."""
        import pyspark  # noqa: F401

        from pravix.databases import spark_driver

        return spark_driver

    def create_connect_args(self, url: Any) -> tuple[list[Any], dict[str, Any]]:
        """As said there: the URL as Spark Connect writes it, and the schema that is behind the slash."""
        if not url.host:
            return [url.database, ""], {}
        settings = {"user_id": url.username, "token": url.password, **url.query}
        told = "".join(f";{key}={value}" for key, value in settings.items() if value)
        return [f"sc://{url.host}:{url.port or 15002}/{told}", url.database or ""], {}

    def do_ping(self, dbapi_connection: Any) -> bool:
        """As said there."""
        dbapi_connection.cursor().execute("SELECT 1")
        return True

    def _get_server_version_info(self, connection: Any) -> tuple[int, ...]:
        told = str(connection.exec_driver_sql("SELECT version()").scalar())
        return tuple(int(part) for part in re.findall(r"\d+", told)[:3])

    def _get_default_schema_name(self, connection: Any) -> str:
        return str(connection.exec_driver_sql("SELECT current_schema()").scalar())

    def _listed(self, connection: Any, what: str, schema: str | None) -> list[str]:
        inside = f" IN {self.identifier_preparer.quote_identifier(schema)}" if schema else ""
        return [str(row[1]) for row in connection.exec_driver_sql(f"SHOW {what}{inside}")]

    def get_schema_names(self, connection: Any, **options: Any) -> list[str]:
        """As said there: with the one of the paths."""
        return [*(str(row[0]) for row in connection.exec_driver_sql("SHOW SCHEMAS")), PARQUET]

    def get_table_names(self, connection: Any, schema: str | None = None, **options: Any) -> list[str]:
        """As said there."""
        views = self.get_view_names(connection, schema, **options)
        return [name for name in self._listed(connection, "TABLES", schema) if name not in views]

    @reflection.cache
    def get_view_names(self, connection: Any, schema: str | None = None, **options: Any) -> list[str]:
        """As said there: paths have none."""
        return [] if schema == PARQUET else self._listed(connection, "VIEWS", schema)

    def has_table(self, connection: Any, table_name: str, schema: str | None = None, **options: Any) -> bool:
        """As said there."""
        try:
            return bool(self.get_columns(connection, table_name, schema))
        except NoSuchTableError:
            return False

    def get_columns(
        self, connection: Any, table_name: str, schema: str | None = None, **options: Any
    ) -> list[Any]:
        """As said there."""
        quoted = self.identifier_preparer.quote_identifier
        named = ".".join(quoted(part) for part in (schema, table_name) if part)
        try:
            found = connection.exec_driver_sql(f"SELECT * FROM {named} LIMIT 0")
        except self.loaded_dbapi.DatabaseError:
            raise NoSuchTableError(table_name) from None
        told = found.cursor.description
        return [
            {"name": name, "type": _column_type(kind), "nullable": True, "default": None}
            for name, kind, *_ in told
        ]

    def _nothing(
        self, connection: Any, table_name: str, schema: str | None = None, **options: Any
    ) -> list[Any]:
        """Return that Spark keeps none."""
        return []

    get_foreign_keys = get_indexes = get_unique_constraints = get_check_constraints = _nothing

    def get_pk_constraint(
        self, connection: Any, table_name: str, schema: str | None = None, **options: Any
    ) -> Any:
        """As said there: none is kept."""
        return {"constrained_columns": [], "name": None}

    def get_table_comment(
        self, connection: Any, table_name: str, schema: str | None = None, **options: Any
    ) -> Any:
        """As said there."""
        return {"text": None}


def _column_type(told: str) -> Any:
    decimal = _DECIMAL.fullmatch(told)
    return Numeric(int(decimal[1]), int(decimal[2])) if decimal else _TYPES.get(told, NullType())
