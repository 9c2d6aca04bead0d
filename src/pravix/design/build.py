"""From a judgement to a design: a tuple of passes, each of which takes the work and returns it done further.

The passes name tables anew, merge them and add to them. Steps, proof, conflicts and remarks know a table by
its identities all the while, and are told in the names that the tables have in the end.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, replace
from functools import partial

from pravix.design.apart import with_apart
from pravix.design.checks import with_checks
from pravix.design.children import broken_children, with_children
from pravix.design.drafting import Draft, drafted, named_and_linked, numbered, obeying
from pravix.design.links import with_agreeing_types, with_wished_rules
from pravix.design.model import Design, Proof, Remark, RoleConflict, Step, Table
from pravix.design.proof import prove
from pravix.design.remarks import remarks_on
from pravix.design.renaming import proof_named, step_named
from pravix.design.restyle import restyled
from pravix.design.roles import broken_roles, with_roles
from pravix.design.steps import steps_to
from pravix.design.surrogates import with_surrogates
from pravix.design.untaken import put_back, untaken_steps
from pravix.errors import InputError
from pravix.first_normal_form.repair import Repaired
from pravix.judgement.decisions import Confidence
from pravix.judgement.judgement import Judgement, by_key
from pravix.ledger.wishes import Arrangement, Wishes
from pravix.relation.relation import Relation
from pravix.theory.dependency import in_order
from pravix.theory.rule_set import RuleSet
from pravix.theory.synthesis import Scheme, synthesise_cover

_AS_FOUND = Wishes()


@dataclass(frozen=True, eq=False)
class Work:
    """A design in the making.

    ``rows`` are the repaired ones, with their number where nothing else identifies them, ``held`` those
    that obey the ``rules``. ``tables`` are as far as the passes have come, ``unnumbered`` those before
    surrogates. ``main`` is the identity of the table that holds a key of the whole file; ``wished_below`` are
    those of tables below third normal form as was wished.
    """

    repaired: Repaired
    judgement: Judgement
    wishes: Wishes
    reserved: Collection[str]
    row_key: frozenset[str]
    rules: RuleSet
    rows: Relation
    held: Relation
    tables: tuple[Table, ...] = ()
    unnumbered: tuple[Table, ...] = ()
    steps: tuple[Step, ...] = ()
    untaken: tuple[Step, ...] = ()
    main: str = ""
    wished_below: tuple[str, ...] = ()
    conflicts: tuple[RoleConflict, ...] = ()
    remarks: tuple[Remark, ...] = ()
    proof: Proof | None = None

    @property
    def proved(self) -> Proof:
        """What was proved; the pass that proves must have been taken."""
        assert self.proof is not None
        return self.proof


Pass = Callable[[Work], Work]
"""A part of the way from a judgement to a design."""


def designed(
    repaired: Repaired,
    judgement: Judgement,
    wishes: Wishes = _AS_FOUND,
    reserved: Collection[str] = (),
    confidence: Confidence | None = None,
) -> Design:
    """Return the design in third normal form that rests on a judgement of a repaired relation.

    Where no combination of columns identifies a row (there are equal rows, or every unique combination
    has a blank), the row number becomes an added column and the key. Rows that break an accepted rule
    are left out of the tables, so that the proof names them. ``wishes`` are the analyst's; ``reserved`` are
    words (in small letters) that no table is called by; ``confidence`` says how sure the judgement is and is
    worked out where it is not given. Raises InputError, with its place, for a wish that cannot be carried
    out. Cost: the theory's, and n log n in the rows for each table.
    """
    relation = repaired.relation
    rows = relation if judgement.row_key is not None else numbered(relation)
    row_key = judgement.row_key or frozenset({rows.names[-1]})
    rules = RuleSet.covering((*judgement.trusted, *by_key(row_key, rows.names)), judgement.rank)
    held = obeying(rows, judgement.trusted)
    work = Work(repaired, judgement, wishes, reserved, row_key, rules, rows, held)
    for one in PASSES:
        work = one(work)
    return _told(work, confidence or Confidence(relation, judgement))


def synthesised(work: Work) -> Work:
    """Make a table for each group of rules, and for each column whose values are to be one; name and link."""
    rank, names = work.judgement.rank, work.rows.names
    made = sorted(
        synthesise_cover(names, work.rules, work.row_key, rank), key=partial(_place, work.judgement)
    )
    listed = [_listed(wish, work.repaired) for wish in work.wishes.of("table") if wish.columns[0] in names]
    schemes = [*made, *(Scheme(frozenset({name}), (frozenset({name}),)) for name in listed)]
    drafts = [drafted(scheme, work.held, work.rules, work.row_key) for scheme in schemes]
    different = list({draft.keys[0]: draft for draft in reversed(drafts)}.values())[::-1]
    return _linked(work, different)


def _listed(wish: Arrangement, repaired: Repaired) -> str:
    """Return the column whose values are to be a table. Raises InputError where a cell holds several."""
    (column,) = wish.columns
    if column in repaired.opaque:
        raise InputError(
            f"{wish.place or 'table'}: {column} holds several values, which have a table of their own",
            "Arrange a column with one value in a cell.",
        )
    return column


def untaken_put_back(work: Work) -> Work:
    """Put the tables of steps that are wished not to be taken back into those that they were split from."""
    untaken = untaken_steps(work.steps, work.wishes)
    if not untaken:
        return work
    drafts = {table.name: Draft(table.keys, table.rows) for table in work.tables}
    kept, widened = put_back(drafts, untaken, work.held)
    made = _linked(replace(work, untaken=untaken), kept)
    below = [one.name for one in made.tables if one.primary_key in widened and not one.form.third]
    return replace(made, wished_below=tuple(below))


def _linked(work: Work, drafts: Sequence[Draft]) -> Work:
    """Name and link drafts, and find the steps that lead to them."""
    names, rules = work.rows.names, work.rules
    tables = named_and_linked(drafts, work.repaired.original.names, rules)
    main = next(table for table in tables if set(names) <= rules.closure(table.primary_key))
    steps = steps_to(work.rows, tables, main, rules.keys(names), rules)
    return replace(work, tables=tables, main=main.name, steps=steps)


def set_apart(work: Work) -> Work:
    """Set rules on delete and update, and columns apart, as is wished."""
    ruled = with_wished_rules(work.tables, work.wishes)
    return replace(work, tables=with_apart(ruled, work.wishes.of("apart"), work.rules))


def proved(work: Work) -> Work:
    """Prove what there is so far: all that comes after only renames, merges what is equal, and adds."""
    main = next(table for table in work.tables if work.main in table.identities)
    proof = prove(work.repaired.relation, work.tables, main, work.rules)
    return replace(work, proof=replace(proof, wished_below=work.wished_below))


def roles_merged(work: Work) -> Work:
    """Merge tables that are roles of one thing."""
    merged, conflicts = with_roles(work.tables)
    proof = replace(work.proved, broken_roles=broken_roles(work.tables, merged))
    return replace(work, tables=merged, conflicts=conflicts, proof=proof)


def children_made(work: Work) -> Work:
    """Give lists and families tables of their own."""
    bundles = work.repaired.bundles
    made = with_children(work.tables, bundles)
    broken = [row for _, row in broken_children(work.tables, made, bundles)]
    unrepaired = tuple(sorted({*work.repaired.differing_rows(), *broken}))
    return replace(work, tables=made, proof=replace(work.proved, unrepaired_rows=unrepaired))


def rows_numbered(work: Work) -> Work:
    """Call tables as is wished one by one, then give those numbers that are to have them."""
    wishes = work.wishes
    named = restyled(work.tables, replace(wishes, style="file", number="found"), ())
    tables, astray = with_surrogates(named, wishes.surrogates, wishes.numbering == "shared")
    known_as = {table.name: table.identities[0] for table in named}
    broken = tuple((known_as[name], row) for name, row in astray)
    proof = replace(work.proved, broken_numbers=broken)
    return replace(work, unnumbered=work.tables, tables=tables, proof=proof)


def remarked(work: Work) -> Work:
    """Say what is still to be said, in the names of the file."""
    by_number = {table.identities[0] for table in work.tables if table.surrogate}
    remarks = remarks_on(work.unnumbered, work.judgement.uses, work.rules, by_number)
    return replace(work, remarks=remarks)


def finished(work: Work) -> Work:
    """Name everything in the style that is wished, let types agree, and make the checks."""
    styled = restyled(work.tables, work.wishes, work.reserved)
    return replace(work, tables=with_checks(with_agreeing_types(styled), work.wishes))


PASSES: tuple[Pass, ...] = (
    synthesised,
    untaken_put_back,
    set_apart,
    proved,
    roles_merged,
    children_made,
    rows_numbered,
    remarked,
    finished,
)
"""The way from a judgement to a design."""


def _told(work: Work, sure: Confidence) -> Design:
    """Return the design with everything told in the names that its tables have in the end."""
    names = {identity: table.name for table in work.tables for identity in table.identities}
    return Design(
        repaired=work.repaired,
        tables=tuple(replace(table, confidence=_sure(table, sure)) for table in work.tables),
        main=names[work.main],
        row_key=tuple(in_order(work.row_key, work.rows.names)),
        cover=work.rules,
        steps=tuple(step_named(step, names) for step in work.steps),
        proof=proof_named(work.proved, names),
        searched_to=work.judgement.searched_to,
        conflicts=tuple(replace(one, one=names[one.one], other=names[one.other]) for one in work.conflicts),
        untaken=tuple(step_named(step, names) for step in work.untaken),
        remarks=tuple(replace(remark, table=names[remark.table]) for remark in work.remarks),
        sure_of_key=sure.row_key,
        sure_of_rules={rule: sure.of(rule) for rule in work.rules},
        wishes=work.wishes,
    )


def _sure(table: Table, confidence: Confidence) -> float:
    """Return how likely a table is right: in each of its roles, or as the one that it is."""
    if table.roles:
        return min(confidence.table([flat for _, flat in role.columns]) for role in table.roles)
    return confidence.table(table.flat_names)


def _place(judgement: Judgement, scheme: Scheme) -> tuple[float, int, list[str]]:
    """Return where a table comes in a design: what is referred to by codes first, then by name."""
    key = scheme.keys[0]
    return round(sum(map(judgement.rank, key)), 2), len(key), sorted(key)
