"""From a judgement to a design: a tuple of passes, each of which takes the work and returns it done further.

The passes name tables anew, merge them and add to them. Steps, proof, conflicts and remarks know a table by
its identities all the while, and are told in the names that the tables have in the end.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import partial

from pravix.design.apart import with_apart
from pravix.design.checks import with_checks
from pravix.design.children import broken_children, names_beside, placed, without_bundles
from pravix.design.drafting import Draft, drafted, named_and_linked, obeying
from pravix.design.further import split_to_bcnf
from pravix.design.independent import lists_apart
from pravix.design.inside import with_links_inside
from pravix.design.keys import few_told, with_wished_keys, with_world_keys
from pravix.design.links import with_agreeing_types, with_wished_rules
from pravix.design.model import Design, Doubt, Proof, Remark, RoleConflict, Scope, Step, Table
from pravix.design.proof import joined_rows, prove, with_part
from pravix.design.remarks import no_value_remarks, remarks_on, sensitive_remarks
from pravix.design.renaming import proof_named, step_named
from pravix.design.restyle import restyled
from pravix.design.roles import broken_roles, with_roles
from pravix.design.steps import steps_to
from pravix.design.surrogates import with_surrogates
from pravix.design.typed import with_room, with_said_types
from pravix.design.untaken import put_back, untaken_steps
from pravix.errors import InputError
from pravix.first_normal_form.parts import PartRows, part_rows
from pravix.first_normal_form.repair import Repaired
from pravix.judgement.decisions import Confidence
from pravix.judgement.judgement import Judgement, by_key
from pravix.judgement.parts import JudgedPart, judged_parts
from pravix.judgement.row_key import collisions
from pravix.ledger.wishes import Arrangement, Wishes
from pravix.memory import give_back
from pravix.relation.grouping import is_unique
from pravix.relation.numbering import numbered
from pravix.relation.relation import Relation
from pravix.sources.coding import Numbering
from pravix.theory.dependency import Dependency, in_order
from pravix.theory.rule_set import RuleSet
from pravix.theory.synthesis import Scheme, lacking_schemes, synthesise_cover

_AS_FOUND = Wishes()
_TOO_FEW_PAIRS = 8
_BEYOND = ("bcnf", "4nf")


@dataclass(frozen=True, eq=False)
class Work:
    """A design in the making.

    ``rows`` are the repaired ones, with their number where nothing else identifies them, ``held`` those
    that obey the ``rules``. ``tables`` are as far as the passes have come, ``unnumbered`` those before
    surrogates. ``main`` is the identity of the table that holds a key of the whole file; ``wished_below`` are
    those of tables below third normal form as was wished. ``numbering`` is of the values of the tables, while
    these are compared.
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
    judged: tuple[JudgedPart, ...] = ()
    parts: Mapping[str, Work] = field(default_factory=dict)
    owner: tuple[str, ...] = ()
    doubts: tuple[Doubt, ...] = ()
    numbering: Numbering | None = None

    @property
    def own_wishes(self) -> Wishes:
        """The wishes that are about these rows."""
        return self.wishes.within(self.rows.names, self.owner)

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
    parts: Sequence[JudgedPart] | None = None,
) -> Design:
    """Return the design in third normal form that rests on a judgement of a repaired relation.

    Where no combination of columns identifies a row (there are equal rows, or every unique combination has a
    blank), the row number becomes an added column and the key. Rows that break an accepted rule are left out
    of the tables, so that the proof names them. ``wishes`` are the analyst's; ``reserved`` are words (in
    small letters) that no table is called by; ``confidence`` says how sure the judgement is, ``parts`` is how
    the parts of lists and families were judged; both are worked out where they are not given. Raises
    InputError, with its place, for a wish that cannot be carried out. Cost: the theory's, and n log n in the
    rows for each table.
    """
    judged = judged_parts(repaired, judgement) if parts is None else tuple(parts)
    work = replace(_begun(repaired, judgement, wishes), reserved=reserved, judged=judged)
    for one in PASSES:
        work = one(work)
        give_back()
    return _told(work, confidence or Confidence(repaired.relation, judgement))


def _begun(repaired: Repaired, judgement: Judgement, wishes: Wishes) -> Work:
    relation = repaired.relation
    rows = relation if judgement.row_key is not None else numbered(relation)
    row_key = judgement.row_key or frozenset({rows.names[-1]})
    rules = RuleSet.covering((*judgement.trusted, *by_key(row_key, rows.names)), judgement.rank)
    held = obeying(rows, judgement.trusted)
    return Work(repaired, judgement, wishes, (), row_key, rules, rows, held)


def synthesised(work: Work) -> Work:
    """Make a table for each group of rules, and for each column whose values are to be one; name and link."""
    rank, names = work.judgement.rank, work.rows.names
    found = synthesise_cover(names, work.rules, work.row_key, rank)
    main = next(one.columns for one in found if set(names) <= work.rules.closure(one.columns))
    if lacking_schemes(found, main, work.rules):
        found = tuple(replace(one, keys=work.rules.keys_of(one)) for one in found)
        found += tuple(lacking_schemes(found, main, work.rules))
    made = sorted(found, key=partial(_place, work.judgement))
    listed = [_listed(wish, work.repaired) for wish in work.own_wishes.of("table")]
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
    untaken = untaken_steps(work.steps, work.own_wishes)
    if not untaken:
        return work
    drafts = {table.name: Draft(table.keys, table.rows) for table in work.tables}
    kept, widened = put_back(drafts, untaken, work.held)
    made = _linked(replace(work, untaken=untaken), kept)
    below = [one.name for one in made.tables if one.primary_key in widened and not one.form.third]
    return replace(made, wished_below=tuple(below))


def taken_further(work: Work) -> Work:
    """Split tables that are not in Boyce-Codd normal form, where that is wished."""
    if work.wishes.until not in _BEYOND:
        return work
    before = [frozenset(table.column_names) for table in work.tables]
    after = split_to_bcnf(before, work.rules)
    if set(after) == set(before):
        return work
    kept = {frozenset(one.column_names): Draft(one.keys, one.rows) for one in work.tables}
    schemes = [Scheme(columns, work.rules.keys(columns)) for columns in after]
    made = [kept.get(one.columns) or drafted(one, work.held, work.rules, work.row_key) for one in schemes]
    return _linked(work, made)


def lists_set_apart(work: Work) -> Work:
    """Give two independent lists of the main table a table each, where fourth normal form is wished."""
    if work.wishes.until != "4nf":
        return work
    main = next(table for table in work.tables if table.name == work.main)
    made = lists_apart(work.tables, main, work.repaired.original.names)
    if made is None:
        return work
    tables, first, price = made
    steps = tuple(step_named(step, {work.main: first.name}) for step in work.steps)
    return replace(work, tables=tables, main=first.name, steps=steps, remarks=(*work.remarks, price))


def _linked(work: Work, drafts: Sequence[Draft]) -> Work:
    """Name and link drafts, and find the steps that lead to them."""
    names, rules = work.rows.names, work.rules
    tables = named_and_linked(drafts, work.repaired.original.names, rules)
    main = next(table for table in tables if set(names) <= rules.closure(table.primary_key))
    steps = steps_to(work.rows, tables, main, rules.keys(names), rules)
    return replace(work, tables=tables, main=main.name, steps=steps)


def set_apart(work: Work) -> Work:
    """Set columns apart as is wished. What is repeated as was wished may go on to be so there."""
    tables = with_apart(work.tables, work.own_wishes.of("apart"), work.rules)
    below = [one.name for one in tables if one.apart_from in work.wished_below and not one.form.third]
    return replace(work, tables=tables, wished_below=(*work.wished_below, *below))


def keyed_as_wished(work: Work) -> Work:
    """Let the keys lead that are wished to, after adding those that authorities give out."""
    keyed = with_world_keys(work.tables)
    return replace(work, tables=with_wished_keys(keyed, work.own_wishes.of("key")))


def proved(work: Work) -> Work:
    """Prove what there is so far: all that comes after only renames, merges what is equal, and adds."""
    main = next(table for table in work.tables if work.main in table.identities)
    proof = prove(work.repaired.relation, work.tables, main, work.rules)
    parted = bool(work.wished_below) and any(table.apart_from for table in work.tables)
    wished = parted or work.wishes.until in _BEYOND
    return replace(work, proof=replace(proof, wished_below=work.wished_below, lost_as_wished=wished))


def roles_merged(work: Work) -> Work:
    """Merge tables that are roles of one thing."""
    numbering = Numbering(column for table in work.tables for column in table.rows.columns)
    merged, conflicts, doubts = with_roles(work.tables, work.main, work.wishes, numbering)
    proof = replace(work.proved, broken_roles=broken_roles(work.tables, merged))
    return replace(work, tables=merged, conflicts=conflicts, proof=proof, doubts=doubts, numbering=numbering)


def children_made(work: Work) -> Work:
    """Give lists and families tables of their own, each designed from the rows of its parts."""
    bundles = work.repaired.bundles
    tables, proof = list(work.tables), work.proved
    parts: dict[str, Work] = {}
    for judged in work.judged:
        bundle = judged.rows.names.bundle
        home = next(table for table in work.tables if bundle.column in table.column_names)
        made = _part_made(work, judged, home)
        child = next(table for table in made.tables if table.name == made.main)
        names = names_beside(made.tables, child, home, bundle, [table.name for table in tables])
        after = max(place for place, table in enumerate(tables) if home.name in (table.name, *_owners(table)))
        tables[after + 1 : after + 1] = placed(made.tables, child, home, judged.rows.names, names)
        columns = (*home.primary_key, *judged.rows.names.columns)
        rows = joined_rows(made.tables, child, columns)
        proof = with_part(proof, proof_named(made.proved, names), broken_children(home, rows, bundle))
        steps = tuple(step_named(step, names) for step in made.steps)
        untaken = tuple(step_named(step, names) for step in made.untaken)
        parts[bundle.column] = replace(made, main=names[made.main], steps=steps, untaken=untaken)
    unrepaired = tuple(sorted({*work.repaired.differing_rows(), *proof.unrepaired_rows}))
    return replace(
        work,
        tables=without_bundles(tables, bundles),
        parts=parts,
        proof=replace(proof, unrepaired_rows=unrepaired),
    )


def _owners(table: Table) -> tuple[str, ...]:
    """Return the table that a child belongs to, so that the next child of it comes after."""
    return (table.foreign_keys[0].table,) if table.made_from is not None and table.foreign_keys else ()


def _part_made(work: Work, judged: JudgedPart, home: Table) -> Work:
    """Return the tables of the parts of a bundle, proved; the file's rules gave it its ``home``.

    Where that has another key than the parts were judged with, only rules among their own columns count.
    """
    names = judged.rows.names
    rows = part_rows(home.rows, names, home.primary_key)
    known = set(rows.relation.names if set(home.primary_key) == set(judged.rows.owner) else names.columns)
    trusted = tuple(rule for rule in judged.judgement.trusted if rule.columns <= known)
    by_item = frozenset((*rows.owner, names.facts[0]))
    key = frozenset(rows.key)
    found = [*by_key(key, rows.relation.names)]
    if names.bundle.keyed_by_item and is_unique(rows.relation, by_item):
        found, key = [*found, *by_key(by_item, rows.relation.names)], by_item
    found += _once_each(rows, trusted)
    rules = RuleSet.covering((*trusted, *found), judged.judgement.rank)
    part = Work(
        Repaired(rows.relation, rows.relation),
        judged.judgement,
        work.wishes,
        work.reserved,
        key,
        rules,
        rows.relation,
        obeying(rows.relation, trusted),
        owner=rows.owner,
    )
    for one in MAKING:
        part = one(part)
    return part


def _once_each(rows: PartRows, trusted: Sequence[Dependency]) -> list[Dependency]:
    """Return that an owner has the same thing once, where the parts show it and luck would not.

    A thing of the parts is what one column determines. Of fewer pairs that would agree by luck than
    ``_TOO_FEW_PAIRS`` nothing is said.
    """
    found: list[Dependency] = []
    for thing in in_order({name for rule in trusted for name in rule.determinant}, rows.names.facts):
        alone = any(rule.determinant == {thing} and rule.dependent in rows.names.facts for rule in trusted)
        key = frozenset((*rows.owner, thing))
        if alone and is_unique(rows.relation, key) and collisions(rows.relation, key) >= _TOO_FEW_PAIRS:
            found += by_key(key, rows.relation.names)
    return found


def rules_wished(work: Work) -> Work:
    """Set what follows on delete and update as is wished."""
    return replace(work, tables=with_wished_rules(work.tables, work.wishes))


def linked_by_values(work: Work) -> Work:
    """Add the references that the values of columns show."""
    tables, doubts = with_links_inside(work.tables, work.wishes, work.numbering)
    return replace(work, tables=tables, doubts=(*work.doubts, *doubts), numbering=None)


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
    remarks: list[Remark] = []
    for bundle, part in {"": work, **work.parts}.items():
        own = [table for table in work.unnumbered if table.part_of == bundle]
        remarks += remarks_on(own, work.unnumbered, part.judgement.uses, part.rules, by_number)
        remarks += sensitive_remarks([one for one in own if not one.apart_from], part.rows)
        remarks += no_value_remarks(own, part.rows)
    return replace(work, remarks=(*work.remarks, *remarks, *few_told(work.unnumbered)))


def finished(work: Work) -> Work:
    """Name everything in the style that is wished, give the columns their types, and make the checks."""
    styled = restyled(work.tables, work.wishes, work.reserved)
    made = [one for repair in work.repaired.in_place for one in repair.rebuilt()]
    computed_from = {name for one in made for name in one.needs}
    said = with_said_types(styled, work.wishes, computed_from)
    checked = with_checks(said, work.wishes)
    return replace(work, tables=with_agreeing_types(with_room(checked, work.wishes)))


MAKING: tuple[Pass, ...] = (
    synthesised,
    untaken_put_back,
    taken_further,
    lists_set_apart,
    set_apart,
    keyed_as_wished,
    proved,
)
"""From rules to tables, for the file's own rows and for those of parts."""

PASSES: tuple[Pass, ...] = (
    *MAKING,
    children_made,
    roles_merged,
    linked_by_values,
    rules_wished,
    rows_numbered,
    remarked,
    finished,
)
"""The way from a judgement to a design."""


def _told(work: Work, sure: Confidence) -> Design:
    """Return the design with everything told in the names that its tables have in the end."""
    names = {identity: table.name for table in work.tables for identity in table.identities}
    parts = {one.rows.names.bundle.column: one.confidence for one in work.judged}
    steps = [*work.steps, *(step for part in work.parts.values() for step in part.steps)]
    untaken = [*work.untaken, *(step for part in work.parts.values() for step in part.untaken)]
    return Design(
        repaired=work.repaired,
        tables=tuple(replace(table, confidence=_sure(table, sure, parts)) for table in work.tables),
        whole=_scope("", work, names, sure),
        steps=tuple(step_named(step, names) for step in steps),
        proof=proof_named(work.proved, names),
        searched_to=work.judgement.searched_to,
        conflicts=tuple(replace(one, one=names[one.one], other=names[one.other]) for one in work.conflicts),
        untaken=tuple(step_named(step, names) for step in untaken),
        remarks=tuple(replace(remark, table=names[remark.table]) for remark in work.remarks),
        parts=tuple(_scope(bundle, part, names, parts[bundle]) for bundle, part in work.parts.items()),
        doubts=work.doubts,
        sure_of_key=sure.row_key,
        wishes=work.wishes,
    )


def _scope(bundle: str, work: Work, names: Mapping[str, str], sure: Confidence) -> Scope:
    return Scope(
        bundle=bundle,
        relation=work.repaired.relation,
        row_key=tuple(in_order(work.row_key, work.rows.names)),
        cover=work.rules,
        main=names[work.main],
        sure_of_rules={rule: sure.of(rule) for rule in work.rules},
    )


def _sure(table: Table, confidence: Confidence, parts: Mapping[str, Confidence]) -> float:
    """Return how likely a table is right: in each of its roles, or as the one that it is.

    A child is as right as its parts, and as that they belong where they do.
    """
    if table.roles:
        return min(
            parts.get(table.part_of, confidence).table([flat for _, flat in role.columns])
            for role in table.roles
        )
    if not table.part_of:
        return confidence.table(table.flat_names)
    own = parts[table.part_of].table(table.flat_names)
    return own if table.made_from is None else min(own, confidence.table([table.made_from.column]))


def _place(judgement: Judgement, scheme: Scheme) -> tuple[float, int, list[str]]:
    """Return where a table comes in a design: what is referred to by codes first, then by name."""
    key = scheme.keys[0]
    return round(sum(map(judgement.rank, key)), 2), len(key), sorted(key)
