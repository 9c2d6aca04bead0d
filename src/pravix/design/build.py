"""From a judgement to a design: synthesis, keys, links, names, rows, steps and proof."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from functools import partial

from pravix.design.apart import with_apart
from pravix.design.checks import with_checks
from pravix.design.children import broken_children, with_children
from pravix.design.drafting import Draft, drafted, named_and_linked, numbered, obeying
from pravix.design.links import with_agreeing_types, with_wished_rules
from pravix.design.model import Design, Proof, RoleConflict, Step, Table
from pravix.design.proof import prove
from pravix.design.remarks import remarks_on
from pravix.design.restyle import restyled
from pravix.design.roles import broken_roles, new_names, with_roles
from pravix.design.steps import steps_to
from pravix.design.surrogates import with_surrogates
from pravix.design.untaken import put_back, untaken_steps
from pravix.first_normal_form.repair import Repaired
from pravix.judgement.decisions import Confidence
from pravix.judgement.judgement import Judgement, by_key
from pravix.ledger.wishes import Wishes
from pravix.theory.closure import closure
from pravix.theory.cover import canonical_cover
from pravix.theory.dependency import Dependency, in_order
from pravix.theory.keys import candidate_keys
from pravix.theory.synthesis import Scheme, synthesise

_AS_FOUND = Wishes()


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
    foundation = (*judgement.trusted, *by_key(row_key, rows.names))
    header = repaired.original.names

    cover = canonical_cover(foundation, judgement.rank)
    keys = candidate_keys(rows.names, cover)
    held = obeying(rows, judgement.trusted)
    made = sorted(synthesise(rows.names, foundation, row_key, judgement.rank), key=partial(_place, judgement))
    schemes = [*made, *_listed(wishes, rows.names)]
    drafts = _without_doubles([drafted(scheme, held, cover, row_key) for scheme in schemes])
    tables = named_and_linked(drafts, header, cover)
    steps = steps_to(rows, tables, _main(tables, rows.names, cover), keys, cover)

    untaken = untaken_steps(steps, wishes)
    widened: list[tuple[str, ...]] = []
    if untaken:
        drafts, widened = put_back({table.name: _draft_of(table) for table in tables}, untaken, held)
        tables = named_and_linked(drafts, header, cover)
        steps = steps_to(rows, tables, _main(tables, rows.names, cover), keys, cover)
    wished_below = [table.name for table in tables if table.primary_key in widened and not table.form.third]

    main = _main(tables, rows.names, cover)
    parted = with_apart(with_wished_rules(tables, wishes), wishes.of("apart"), cover)
    apart_main = next(table for table in parted if table.name == main.name)
    proof = prove(relation, parted, apart_main, cover)

    merged, conflicts = with_roles(parted)
    final = with_children(merged, repaired.bundles)
    named = restyled(final, replace(wishes, style="file", number="found"), ())
    numbered_tables, astray = with_surrogates(named, wishes.surrogates, wishes.numbering == "shared")
    by_number = {old.name for old, new in zip(final, numbered_tables, strict=True) if new.surrogate}
    remarks = remarks_on(final, judgement.things, cover, by_number)
    called = with_checks(with_agreeing_types(restyled(numbered_tables, wishes, reserved)), wishes)

    unrepaired = {
        *repaired.differing_rows(),
        *(row for _, row in broken_children(merged, final, repaired.bundles)),
    }
    proof = replace(
        proof,
        unrepaired_rows=tuple(sorted(unrepaired)),
        broken_roles=broken_roles(parted, merged),
        broken_numbers=astray,
        wished_below=tuple(wished_below),
    )
    in_the_end = dict(zip([table.name for table in final], [table.name for table in called], strict=True))
    names = {old: in_the_end[new] for old, new in new_names(parted, merged).items()}
    names = in_the_end | names
    sure = confidence or Confidence(relation, judgement)
    return Design(
        repaired=repaired,
        tables=tuple(replace(table, confidence=_sure(table, sure)) for table in called),
        main=names[main.name],
        row_key=tuple(in_order(row_key, rows.names)),
        cover=cover,
        steps=tuple(_step_renamed(step, names) for step in steps),
        proof=_proof_renamed(proof, names),
        searched_to=judgement.searched_to,
        conflicts=tuple(_conflict_renamed(conflict, names) for conflict in conflicts),
        untaken=tuple(_step_renamed(step, names) for step in untaken),
        remarks=tuple(replace(remark, table=in_the_end[remark.table]) for remark in remarks),
        sure_of_key=sure.row_key,
        sure_of_rules={rule: sure.of(rule) for rule in cover},
        wishes=wishes,
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


def _main(tables: Sequence[Table], names: Sequence[str], cover: Collection[Dependency]) -> Table:
    """Return the table that holds a key of the whole file."""
    return next(table for table in tables if set(names) <= closure(table.primary_key, cover))


def _listed(wishes: Wishes, names: Sequence[str]) -> list[Scheme]:
    """Return a scheme for each column whose values are wished for as a table."""
    columns = [wish.columns[0] for wish in wishes.of("table") if wish.columns[0] in names]
    return [Scheme(frozenset({name}), (frozenset({name}),)) for name in columns]


def _without_doubles(drafts: Sequence[Draft]) -> list[Draft]:
    """Return the drafts without those of value lists that have a table already."""
    return list({draft.keys[0]: draft for draft in reversed(drafts)}.values())[::-1]


def _draft_of(table: Table) -> Draft:
    return Draft(table.keys, table.rows)


def _step_renamed(step: Step, names: Mapping[str, str]) -> Step:
    to_table = names.get(step.to_table, step.to_table)
    return replace(step, from_table=names.get(step.from_table, step.from_table), to_table=to_table)


def _conflict_renamed(conflict: RoleConflict, names: Mapping[str, str]) -> RoleConflict:
    return replace(conflict, one=names[conflict.one], other=names[conflict.other])


def _proof_renamed(proof: Proof, names: Mapping[str, str]) -> Proof:
    def places(found: Sequence[tuple[str, int]]) -> tuple[tuple[str, int], ...]:
        return tuple((names.get(table, table), row) for table, row in found)

    return replace(
        proof,
        below_third=tuple(names.get(table, table) for table in proof.below_third),
        wished_below=tuple(names.get(table, table) for table in proof.wished_below),
        broken_links=places(proof.broken_links),
        broken_roles=places(proof.broken_roles),
        broken_numbers=places(proof.broken_numbers),
    )
