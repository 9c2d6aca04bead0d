"""From evidence to standings: which rules are believed, and what identifies a row.

Rules are judged from the finest determinant (the one with most different values) to the coarsest.
By the time that ``estate -> region`` is judged, it is known that each block belongs to one estate;
so the blocks are the observations, not the many rows of each block.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field
from functools import partial

from pravix.discovery.discovered import Discovery
from pravix.judgement.evidence import Evidence, fits_a_key, gather
from pravix.judgement.header import Header
from pravix.judgement.kinds import Thing, codelike, free_name, things
from pravix.judgement.model import (
    Role,
    Weighing,
    choice_bits,
    hopeless,
    known_thing_bits,
    prior_bits,
    reference_rank,
    weigh,
)
from pravix.judgement.order import FinestFirst
from pravix.judgement.row_key import RankedKey, ranked_keys
from pravix.judgement.said import Said
from pravix.judgement.standing import JudgedRules, bits_of
from pravix.judgement.weights import BELIEVED_FROM, WEIGHED_TO
from pravix.relation.relation import Relation
from pravix.relation.words import share_noun
from pravix.theory.closure import closure, derivation
from pravix.theory.dependency import Dependency, in_order

_MANY_VALUES = 15
_NOTHING_SAID = Said()
_EACH_PLACE = 1e-6
_NEARLY_UNIQUE = 0.99
"""From this share of different values on, a combination determines everything and means nothing."""


@dataclass(frozen=True)
class Judgement:
    """All minimal rules with their standings, and what the design rests on.

    ``trusted`` are the rules that were believed or accepted one by one, ``row_keys`` the combinations that
    may identify a row of the file, best first, none where no unique combination without blanks is there.
    ``things`` says what kind of thing each column holds, ``searched_to`` how large the determinants were
    that were searched; None where all were. ``accepted`` and ``rejected`` are the analyst's decisions,
    ``opaque`` the columns that hold several values in a cell, ``blank`` those with a blank,
    ``codelike`` those whose values look like codes. ``said`` is what the analyst says of keys, ``place`` an
    order of the columns that follows from their values, for what is equal otherwise.
    """

    rules: JudgedRules
    trusted: tuple[Dependency, ...]
    row_keys: tuple[RankedKey, ...]
    things: Mapping[str, Thing]
    searched_to: int | None
    accepted: tuple[Dependency, ...] = ()
    rejected: tuple[Dependency, ...] = ()
    opaque: frozenset[str] = frozenset()
    blank: frozenset[str] = frozenset()
    codelike: frozenset[str] = frozenset()
    said: Said = _NOTHING_SAID
    place: Mapping[str, int] = field(default_factory=dict)

    @property
    def row_key(self) -> frozenset[str] | None:
        """The combination that identifies a row; None where there is none."""
        return self.row_keys[0].columns if self.row_keys else None

    @property
    def foundation(self) -> tuple[Dependency, ...]:
        """All that the design rests on: the trusted rules, and that the key of the file determines a row."""
        return (*self.trusted, *by_key(self.row_key, tuple(self.things)))

    def rank(self, name: str) -> float:
        """Return how late a column is chosen to refer to something by; an added one comes first.

        No two columns of the file are alike.
        """
        if name not in self.things:
            return 0.0
        wished = any(name in columns for columns in self.said.refer_by)
        rank = 0.0 if wished else reference_rank(name, self.things[name], name in self.codelike)
        return rank + _EACH_PLACE * self.place.get(name, 0)


def by_key(row_key: frozenset[str] | None, names: Sequence[str]) -> tuple[Dependency, ...]:
    """Return the rules by which a key of the file determines every other column; none without a key."""
    return tuple(Dependency(row_key, name) for name in names if name not in row_key) if row_key else ()


def judge(
    relation: Relation,
    discovery: Discovery,
    accepted: Collection[Dependency] = (),
    rejected: Collection[Dependency] = (),
    opaque: Collection[str] = (),
    said: Said = _NOTHING_SAID,
) -> Judgement:
    """Return the standing of every discovered rule.

    ``accepted``, ``rejected`` and what is ``said`` of keys are the analyst's decisions; what they imply
    follows them. Columns that are ``opaque`` hold several values in a cell; they determine nothing and
    identify nothing. Cost: one grouping of the rows for each rule of up to ``WEIGHED_TO`` columns.
    """
    kinds = things(relation.columns)
    order, header = FinestFirst(relation, kinds), Header(relation.names, kinds)
    weighed = _weighed(relation, discovery, order, header, accepted, rejected, frozenset(opaque))
    believed = [rule for rule, (_, weighing) in weighed.items() if weighing.total >= BELIEVED_FROM]
    believed += _constants_by_header(relation, discovery, believed, header, order)
    believed += _codes_of_the_same(discovery, believed, order, rejected)
    trusted = [*accepted, *(rule for rule in believed if rule not in accepted)]
    trusted = _without_rejected(trusted, partial(bits_of, weighed), accepted, rejected)
    trusted = _without_keys(trusted, partial(bits_of, weighed), accepted, said, relation.names)
    keys = ranked_keys(relation, discovery, trusted, kinds, rejected, opaque, said, order.place)
    foundation = (*trusted, *by_key(keys[0].columns if keys else None, relation.names))
    rules = JudgedRules(relation.names, discovery.dependencies, accepted, rejected, foundation, weighed)
    return Judgement(
        rules=rules,
        trusted=tuple(trusted),
        row_keys=keys,
        things=kinds,
        searched_to=discovery.searched_to,
        accepted=tuple(accepted),
        rejected=tuple(rejected),
        opaque=frozenset(opaque),
        blank=frozenset(column.name for column in relation.columns if column.blanks),
        codelike=frozenset(column.name for column in relation.columns if codelike(column)),
        said=said,
        place=order.place,
    )


def _weighed(
    relation: Relation,
    discovery: Discovery,
    order: FinestFirst,
    header: Header,
    accepted: Collection[Dependency],
    rejected: Collection[Dependency],
    opaque: frozenset[str],
) -> dict[Dependency, tuple[Evidence, Weighing]]:
    """Weigh the rules one by one, each on the distinct rows of what is already known to carry it."""
    in_use = {rule.determinant for rule in accepted}
    candidates = [
        rule
        for rule in discovery.dependencies.up_to(WEIGHED_TO)
        if rule.determinant
        and not rule.determinant & opaque
        and rule not in rejected
        and (rule.determinant in in_use or not hopeless(rule, order.things))
        and fits_a_key(relation, rule)
    ]
    unique = frozenset(discovery.keys.up_to(WEIGHED_TO))
    free = frozenset(column.name for column in relation.columns if free_name(column))
    known = dict.fromkeys(rule for rule in accepted if rule.determinant)
    result: dict[Dependency, tuple[Evidence, Weighing]] = {}
    gathered: dict[tuple[Dependency, frozenset[str]], Evidence] = {}
    singles = sorted((rule for rule in candidates if len(rule.determinant) == 1), key=order.of_rule)

    def composites() -> list[Dependency]:
        repeated = [
            rule
            for rule in candidates
            if len(rule.determinant) > 1
            and rule.determinant not in unique
            and not _described_elsewhere(rule, known)
            and not order.groupings.reaches(rule.determinant, _NEARLY_UNIQUE * relation.row_count)
        ]
        return sorted(repeated, key=order.of_rule)

    for turn in range(3):
        for rule in composites() if turn == 1 else singles:
            known.pop(rule, None)
            if len(rule.determinant) > 1 and _described_elsewhere(rule, known):
                continue
            described = _thing_described(rule, known, order)
            needed = BELIEVED_FROM - prior_bits(rule, order.things)
            told = rule, described
            if told not in gathered:
                observed = in_order(described, relation.names)
                gathered[told] = gather(relation, rule, observed, needed)
            evidence = gathered[told]
            columns = len(closure(described, known)) if described else len(relation.names)
            weighing = weigh(
                rule,
                evidence,
                order.things,
                choice=choice_bits(len(rule.determinant), columns),
                names=header.names_bits(rule),
                role=_role(rule, evidence, known, order),
                half_back=_leads_half_back(rule, known),
                free=rule.determinant <= free,
            )
            result[rule] = evidence, weighing
            if weighing.total >= BELIEVED_FROM:
                known[rule] = None
    return result


def _described_elsewhere(rule: Dependency, known: Collection[Dependency]) -> bool:
    """Return whether a known thing describes the dependent and has nothing to do with the determinant.

    What two unrelated things both seem to determine, the combination of more columns determines by luck.
    """
    homes = {other.determinant for other in known if other.dependent == rule.dependent}
    return any(not rule.determinant <= closure(home, known) for home in homes if len(home) == 1)


def _leads_half_back(rule: Dependency, known: Collection[Dependency]) -> bool:
    """Whether the dependent is known to determine some columns of a composite determinant, and not all."""
    if len(rule.determinant) == 1:
        return False
    described = rule.determinant & closure({rule.dependent}, known)
    return bool(described) and described != rule.determinant


def _role(rule: Dependency, evidence: Evidence, known: Collection[Dependency], order: FinestFirst) -> Role:
    """Return what a rule would do beside those that are known."""
    identifies = order.named_thing(rule.determinant) or any(
        other.determinant == rule.determinant for other in known
    )
    if evidence.tests == 0:
        if rule.dependent in evidence.observed:
            return Role.BACK
        if not identifies:
            return Role.UNTESTED
    return Role.FURTHER if identifies else Role.FIRST


def _thing_described(rule: Dependency, known: Collection[Dependency], order: FinestFirst) -> frozenset[str]:
    """Return the known determinant of the rule's dependent whose values are the observations.

    Where it is known that a drum has one honey type, a row tells nothing new about the type unless its
    drum is new; where it is known that a type has one price, a row tells nothing about which type has
    that price unless its type is new. Of several such determinants the one that leaves the fewest
    observations counts. One that the rule's own determinant is known to determine is a later link of
    the chain and does not; nor does one in one-to-one correspondence that comes later in the order.
    """
    best: frozenset[str] = frozenset()
    determined = closure(rule.determinant, known)
    for determinant in dict.fromkeys(other.determinant for other in known):
        reached = closure(determinant, known)
        describes = rule.dependent in reached - determinant or rule.columns <= reached
        if determinant <= determined or not describes:
            continue
        one_to_one = order.size(determinant) == order.size(rule.determinant)
        if one_to_one and order.of(rule.determinant) < order.of(determinant):
            continue
        if not best or order.size(determinant | rule.determinant) < order.size(best | rule.determinant):
            best = determinant
    return best


def _constants_by_header(
    relation: Relation,
    discovery: Discovery,
    believed: Collection[Dependency],
    header: Header,
    order: FinestFirst,
) -> list[Dependency]:
    """Return, for each constant column, the rule that its name suggests.

    The rows say nothing about a column that is the same in all of them. Where its name holds the noun of
    an identifier, or of a column that is believed to identify something (``drum_no`` and ``drum_kind``),
    it is taken to describe it too.
    """
    identifying = {rule.determinant for rule in believed if len(rule.determinant) == 1}
    identifying |= {one for name in relation.names if order.named_thing(one := frozenset({name}))}
    found = []
    for constant in (rule.dependent for rule in discovery.dependencies.up_to(0)):
        rules = [
            Dependency(one, constant) for one in sorted(identifying, key=order.of) if constant not in one
        ]
        told = {rule: known_thing_bits(header.names_bits(rule)) for rule in rules if fits_a_key(relation, rule)}
        best = max(told, key=lambda rule: told[rule], default=None)
        found += [best] if best is not None and told[best] >= BELIEVED_FROM else []
    return found


def _codes_of_the_same(
    discovery: Discovery,
    believed: Collection[Dependency],
    order: FinestFirst,
    rejected: Collection[Dependency],
) -> list[Dependency]:
    """Return the rules that lead back from a code to what it was given to, one to one.

    A code that is believed to follow from a column, and differs wherever that does, in many values or under
    the same noun, is another name of the same thing; so is what is believed to decide more.
    """
    deciding = {rule.determinant for rule in believed}
    held = {rule for rule in discovery.dependencies.up_to(1) if rule.determinant}
    found = []
    for rule in believed:
        if len(rule.determinant) != 1:
            continue
        (name,) = rule.determinant
        code = rule.dependent
        back = Dependency(frozenset({code}), name)
        same = order.size({name}) >= _MANY_VALUES or share_noun(name, code)
        another = (same and order.is_code(code)) or back.determinant in deciding
        if another and back in held and back not in believed and back not in rejected:
            found.append(back)
    return found


def without(judgement: Judgement, rejected: Collection[Dependency]) -> tuple[Dependency, ...]:
    """Return the trusted rules less the weakest ones that together imply one that would be rejected.

    Accepted rules give way last.
    """
    firm = [rule for rule in judgement.accepted if rule not in rejected]
    return tuple(_without_rejected(judgement.trusted, judgement.rules.bits, firm, rejected))


def _without_rejected(
    trusted: Sequence[Dependency],
    bits: Callable[[Dependency], float],
    accepted: Collection[Dependency],
    rejected: Collection[Dependency],
) -> list[Dependency]:
    """Return trusted rules, less the weakest ones that together imply a rejected rule."""
    kept = list(trusted)
    for denied in rejected:
        while (chain := derivation(denied, kept)) is not None:
            weakest = [rule for rule in chain if rule not in accepted] or chain
            kept.remove(min(weakest, key=bits))
    return kept


def _without_keys(
    trusted: Sequence[Dependency],
    bits: Callable[[Dependency], float],
    accepted: Collection[Dependency],
    said: Said,
    names: Sequence[str],
) -> list[Dependency]:
    """Return trusted rules, less the weakest ones by which what is no key would identify a row."""
    kept = list(trusted)
    for denied in said.not_keys:
        while set(names) <= closure(denied, kept):
            chains = [derivation(Dependency(denied, name), kept) or () for name in names if name not in denied]
            used = {rule for chain in chains for rule in chain}
            kept.remove(min(used - set(accepted) or used, key=lambda rule: (bits(rule), str(rule))))
    return kept
