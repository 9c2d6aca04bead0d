"""The parts of a design: tables with their columns, keys and links, the steps to them and the proof."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from pravix.design.cardinality import Cardinality
from pravix.first_normal_form.repair import Bundle, Repaired
from pravix.ledger.wishes import Wishes
from pravix.relation.relation import Relation
from pravix.relation.types import ColumnType
from pravix.theory.dependency import Dependency
from pravix.theory.normal_forms import Breach, Form
from pravix.theory.rule_set import RuleSet
from pravix.wording import joined


@dataclass(frozen=True)
class TableColumn:
    """A column of a table; ``source`` is its column in the flat file, None for one that was added.

    ``stands_for`` is its column among the repaired rows, None for a surrogate or a position.
    """

    name: str
    source: str | None
    type: ColumnType
    nullable: bool
    stands_for: str | None = None


@dataclass(frozen=True)
class Check:
    """A check that the rows suggest for a column, and whether the design makes it.

    ``kind`` is one of ``values`` (``values`` lists those allowed), ``range`` (the least and the greatest),
    ``pattern`` (a shape with A, a and 9), ``unique`` and ``default`` (one value). ``rows`` is how many rows
    it rests on, ``exceptions`` how many go against it (a default need not hold everywhere).
    """

    column: str
    kind: str
    values: tuple[str, ...]
    rows: int
    exceptions: int = 0
    made: bool = False


@dataclass(frozen=True)
class ForeignKey:
    """A link from columns of a table to a key of another, its primary key where that is possible.

    ``optional`` says that the columns may be blank, ``single`` that each referred row is referred to
    by one row at most. ``role`` is the role in which it refers to a table that has several.
    ``on_delete`` and ``on_update`` say what becomes of the referring rows. ``by_values`` says that it was
    found by its values: no flat column comes back by it. ``circular`` says that rows refer to each other in a
    circle by it, so that it can be checked only when all rows are there.
    """

    columns: tuple[str, ...]
    table: str
    references: tuple[str, ...]
    optional: bool
    single: bool
    role: str = ""
    on_delete: str = "restrict"
    on_update: str = "restrict"
    by_values: bool = False
    circular: bool = False

    @property
    def cardinality(self) -> Cardinality:
        """How many rows it joins on either side."""
        return Cardinality.of(self.single, self.optional)


@dataclass(frozen=True)
class Role:
    """One of several roles in which rows refer to a table, with the flat column of each of its columns."""

    name: str
    columns: tuple[tuple[str, str], ...]

    @property
    def words(self) -> list[str]:
        """The words of the role."""
        return self.name.split(" ")


@dataclass(frozen=True)
class RoleConflict:
    """What keeps two tables with alike names from being roles of one thing.

    The same ``key`` has other facts in the one than in the other, in the rows with these numbers; all are
    empty where the two share no keys, nor the shape of their keys.
    """

    one: str
    other: str
    key: str
    here: tuple[str, ...]
    there: tuple[str, ...]
    rows: tuple[int, ...]


@dataclass(frozen=True, eq=False)
class Table:
    """A table of the design with its rows; ``keys`` are all candidate keys, the primary key first.

    ``made_from`` says what a child table holds the parts of, ``part_of`` the bundle that its columns come
    from, for the child and for what its parts say of other things; ``roles`` says which flat columns a table
    with several roles stands for. ``apart_from`` names the table that its columns were set apart from,
    ``independent_of`` the one that holds another list of the same things,
    ``surrogate`` the added column that numbers its rows; ``checks`` are what the rows suggest.
    ``confidence`` is the probability that the right design has this table, with this key; ``name_guessed``
    says that no column tells what a row is. While a design is made, steps, proof and remarks know a table by
    its ``identities``, which stay whatever it is called: the one it got first, of merged tables all.
    """

    name: str
    columns: tuple[TableColumn, ...]
    keys: tuple[tuple[str, ...], ...]
    foreign_keys: tuple[ForeignKey, ...]
    form: Form
    rows: Relation
    made_from: Bundle | None = None
    part_of: str = ""
    roles: tuple[Role, ...] = ()
    apart_from: str = ""
    independent_of: str = ""
    surrogate: str = ""
    checks: tuple[Check, ...] = ()
    confidence: float = 1.0
    name_guessed: bool = False
    identities: tuple[str, ...] = ()

    @property
    def primary_key(self) -> tuple[str, ...]:
        """The columns of the primary key."""
        return self.keys[0]

    @property
    def column_names(self) -> tuple[str, ...]:
        """The names of all columns."""
        return tuple(column.name for column in self.columns)

    @property
    def flat_names(self) -> dict[str, str]:
        """For each flat column that the table holds, in any role, its column here."""
        if not self.roles:
            return {column.stands_for: column.name for column in self.columns if column.stands_for}
        return {flat: name for role in self.roles for name, flat in role.columns}

    @property
    def natural_key(self) -> tuple[str, ...]:
        """The first key that holds no added number: the primary key itself where that is no surrogate."""
        return next((key for key in self.keys if self.surrogate not in key), self.primary_key)

    @property
    def described(self) -> tuple[str, ...]:
        """The columns outside the primary key: what the table says about its key."""
        return tuple(name for name in self.column_names if name not in self.primary_key)


@dataclass(frozen=True)
class Repetition:
    """One determinant value that the file repeats, with what it repeats and in which rows."""

    key: tuple[str, ...]
    facts: tuple[str, ...]
    times: int
    rows: tuple[int, int]


@dataclass(frozen=True)
class Mention:
    """A determinant value that stands in one row of the file only, with what that row says about it."""

    key: tuple[str, ...]
    facts: tuple[str, ...]
    row: int


@dataclass(frozen=True)
class Step:
    """One move: what depends on ``determinant`` leaves ``from_table`` and gets a table of its own.

    ``stored_before`` counts the file's rows that state the facts, ``stored_now`` the rows of the new
    table. ``moved`` are the columns that leave; ``repetition`` is the example, None where no value of
    the determinant repeats; ``only`` is a value that stands in one row, None where all repeat.
    """

    determinant: tuple[str, ...]
    moved: tuple[str, ...]
    breach: Breach
    from_table: str
    to_table: str
    stored_before: int
    stored_now: int
    repetition: Repetition | None
    only: Mention | None

    @property
    def cells_saved(self) -> int:
        """How many cells of the file repeat what the new table holds once."""
        return (self.stored_before - self.stored_now) * len(self.moved)


@dataclass(frozen=True)
class Remark:
    """What an experienced designer would still say about a table.

    ``about`` says which kind of remark it is: ``BCNF``, ``independent lists``, ``optional group``,
    ``weak key``, ``composite key``, ``same things``, ``sensitive`` or ``no value``.
    """

    about: str
    table: str
    text: str


@dataclass(frozen=True)
class Proof:
    """What was checked of a design, by algebra and on the rows.

    ``missing_rows`` are rows of the file, by number, that do not come back when the tables are joined;
    ``strange_rows`` counts joined rows that the file does not have. ``broken_links`` lists table and
    row number of the file for each reference that finds nothing. ``unrepaired_rows`` are rows of the
    file whose repaired cells (lists, families, flags, computed values) do not come back exactly;
    ``broken_roles`` table and row number of each row that a table with roles does not give back,
    ``broken_numbers`` of each row whose surrogates do not lead to the rows that it referred to.
    ``wished_below`` are tables below third normal form because the analyst keeps facts together;
    ``lost_as_wished`` says that rules may be lost, because the analyst wishes for Boyce-Codd normal form, or
    sets a column apart from what decides it and keeps that together with other facts.
    """

    lossless_by_chase: bool
    lost_dependencies: tuple[Dependency, ...]
    below_third: tuple[str, ...]
    rejoined_rows: int
    missing_rows: tuple[int, ...]
    strange_rows: int
    broken_links: tuple[tuple[str, int], ...]
    unrepaired_rows: tuple[int, ...] = ()
    broken_roles: tuple[tuple[str, int], ...] = ()
    broken_numbers: tuple[tuple[str, int], ...] = ()
    wished_below: tuple[str, ...] = ()
    lost_as_wished: bool = False

    @property
    def lossless(self) -> bool:
        """Whether the tables join back to exactly the rows of the file, by chase and by doing it."""
        return self.lossless_by_chase and not (self.missing_rows or self.strange_rows or self.unrepaired_rows)

    @property
    def holds(self) -> bool:
        """Whether everything that was checked holds."""
        lost = self.lost_dependencies and not self.lost_as_wished
        algebra = lost or set(self.below_third) - set(self.wished_below)
        rows = self.broken_links or self.broken_roles or self.broken_numbers
        return self.lossless and not (algebra or rows)


@dataclass(frozen=True)
class Doubt:
    """Two groups of flat columns that may hold one kind of thing; ``made`` says how the design has it.

    ``told`` says what the rows show, ``bits`` how much speaks for it.
    """

    one: tuple[str, ...]
    other: tuple[str, ...]
    made: bool
    told: str
    bits: float

    @property
    def id(self) -> str:
        """What names the question about it."""
        return f"same: {', '.join(self.one)} | {', '.join(self.other)}"

    @property
    def question(self) -> str:
        """The question in plain words, with what the rows show."""
        text = f"{self.told[0].upper()}{self.told[1:]}."
        return f"{text} Do {joined(self.one)} and {joined(self.other)} hold the same kind of thing?"


@dataclass(frozen=True, eq=False)
class Scope:
    """Rows under one judgement: those of the repaired file, or the parts of one ``bundle``.

    ``row_key`` identifies a row, ``main`` names the table that holds it, ``cover`` is the canonical cover of
    the trusted rules and the row key's dependencies; ``sure_of_rules`` says how likely each rule is.
    """

    bundle: str
    relation: Relation
    row_key: tuple[str, ...]
    cover: RuleSet
    main: str
    sure_of_rules: Mapping[Dependency, float] = field(default_factory=dict)

    @property
    def names(self) -> tuple[str, ...]:
        """The columns, with those that were added to identify a row."""
        return tuple(dict.fromkeys((*self.relation.names, *self.row_key)))


@dataclass(frozen=True, eq=False)
class Design:
    """Tables in an order in which they can be created and loaded, and what they rest on.

    ``repaired`` is the file with its repairs, ``whole`` its rows with what identifies them and the rules that
    speak of them; ``parts`` are the rows that lists and families were made of, each with rules of their own.
    ``searched_to`` is how many columns the largest determinants had that were searched; None where all were.
    ``conflicts`` say what kept tables with alike names apart. ``untaken`` are the steps that the analyst
    wishes not to take, with what stays repeated; ``remarks`` are what could still be said of the tables,
    ``wishes`` what was wished. ``doubts`` say which columns may hold one kind of thing; ``sure_of_key`` is
    how likely the row key is right.
    """

    repaired: Repaired
    tables: tuple[Table, ...]
    whole: Scope
    steps: tuple[Step, ...]
    proof: Proof
    searched_to: int | None
    conflicts: tuple[RoleConflict, ...] = ()
    untaken: tuple[Step, ...] = ()
    remarks: tuple[Remark, ...] = ()
    parts: tuple[Scope, ...] = ()
    doubts: tuple[Doubt, ...] = ()
    sure_of_key: float = 1.0
    wishes: Wishes = field(default_factory=Wishes)

    @property
    def relation(self) -> Relation:
        """The relation that was decomposed: the file's rows, repaired."""
        return self.repaired.relation

    @property
    def main(self) -> str:
        """The name of the table that holds a key of the file."""
        return self.whole.main

    @property
    def row_key(self) -> tuple[str, ...]:
        """What identifies a row of the file."""
        return self.whole.row_key

    @property
    def cover(self) -> RuleSet:
        """The rules of the file's own rows."""
        return self.whole.cover

    @property
    def scopes(self) -> tuple[Scope, ...]:
        """All rows under a judgement of their own: the file's, then those of its parts."""
        return (self.whole, *self.parts)

    def scope_of(self, columns: Iterable[str]) -> Scope:
        """Return the rows that hold some flat columns: the file's own where they do."""
        wanted = set(columns)
        return next((one for one in self.scopes if wanted <= set(one.names)), self.whole)

    def scope_of_table(self, table: Table) -> Scope:
        """Return the rows that a table was made from."""
        return next((one for one in self.parts if one.bundle == table.part_of), self.whole)

    def table(self, name: str) -> Table:
        """Return the table called ``name``; KeyError when there is none."""
        for table in self.tables:
            if table.name == name:
                return table
        raise KeyError(name)

    def home(self, column: str) -> Table:
        """Return the table a column lives in: where it is described, or else where it is the key.

        A column that is described nowhere lives in the table whose primary key it is, or is part of;
        of several the one with the shortest key, which the others refer to. What was several columns or
        a list lives in the table made of it. KeyError when no table holds it.
        """
        holding = [table for table in self.tables if column in table.flat_names]
        describing = [table for table in holding if table.flat_names[column] in table.described]
        referring = [table for table in describing if not _refers_by(table, table.flat_names[column])]
        keyed = sorted(
            (table for table in holding if table.flat_names[column] in table.primary_key),
            key=lambda table: len(table.primary_key),
        )
        made = [one for one in self.tables if one.made_from is not None and one.made_from.column == column]
        for table in (*referring, *keyed, *describing, *made):
            return table
        raise KeyError(column)


def _refers_by(table: Table, column: str) -> bool:
    return any(column in link.columns for link in table.foreign_keys)
