"""The first pass: rules weighed one by one, from the finest determinant to the coarsest.

By the time that ``estate -> region`` is weighed, it is known that each block belongs to one estate;
so the blocks are the observations, not the many rows of each block.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Iterator, Mapping
from functools import cached_property

from pravix.discovery.discovered import Discovery
from pravix.first_normal_form.computed_numbers import explained
from pravix.judgement.column_roles import ColumnRole, column_roles
from pravix.judgement.evidence import Evidence, fits_a_key, gather
from pravix.judgement.header import Header
from pravix.judgement.kinds import free_name, uses
from pravix.judgement.model import (
    Effect,
    Weighing,
    choice_bits,
    hopeless,
    known_thing_bits,
    prior_bits,
    weigh,
)
from pravix.judgement.order import FinestFirst
from pravix.judgement.people import holds_people
from pravix.judgement.recoding import TIMES, recoded
from pravix.judgement.use import Use
from pravix.judgement.weights import (
    AGAINST_ITS_KIND_FROM,
    BELIEVED_FROM,
    MANY_VALUES,
    NEARLY_UNIQUE,
    WEIGHED_TO,
)
from pravix.ledger.said import Said
from pravix.relation.relation import Relation
from pravix.relation.words import share_noun
from pravix.theory.dependency import Dependency, in_order
from pravix.theory.rule_index import RuleIndex

_DECLARED: Mapping[str, tuple[ColumnRole, Use]] = {
    "identifier": (ColumnRole.IDENTIFIER, Use.IDENTIFIER),
    "period": (ColumnRole.TIME, Use.PERIOD),
}
"""What a column is where the analyst declares it."""

Weighed = dict[Dependency, tuple[Evidence, Weighing]]


class _Known:
    """The rules that are known so far, with what they lead to."""

    def __init__(self, rules: Iterable[Dependency]) -> None:
        self._index = RuleIndex(())
        self._closed: dict[frozenset[str], frozenset[str]] = {}
        self.determinants: dict[frozenset[str], set[str]] = {}
        for rule in rules:
            self.add(rule)

    def __iter__(self) -> Iterator[Dependency]:
        return (Dependency(one, name) for one, names in self.determinants.items() for name in names)

    def add(self, rule: Dependency) -> None:
        """Add a rule."""
        self.determinants.setdefault(rule.determinant, set()).add(rule.dependent)
        self._index.add(rule)
        self._forget(rule, lambda closed: rule.dependent not in closed)

    def discard(self, rule: Dependency) -> None:
        """Take a rule out where it is known."""
        told = self.determinants.get(rule.determinant, set())
        if rule.dependent not in told:
            return
        told.remove(rule.dependent)
        if not told:
            del self.determinants[rule.determinant]
        self._index.discard(rule)
        self._forget(rule, lambda closed: True)

    def _forget(self, rule: Dependency, changed: Callable[[frozenset[str]], bool]) -> None:
        """Forget the closures to which a rule adds something, or may have."""
        for columns, closed in list(self._closed.items()):
            if rule.determinant <= closed and changed(closed):
                del self._closed[columns]

    def closure(self, columns: Collection[str]) -> frozenset[str]:
        """Return all columns that some columns are known to determine, those themselves too."""
        wanted = frozenset(columns)
        if wanted not in self._closed:
            self._closed[wanted] = self._index.reached(wanted)
        return self._closed[wanted]


class FirstPass:
    """The rules of one table, weighed as often as the search for the design asks for it.

    What the rows say for a rule beside what is known is worked out once.
    """

    def __init__(
        self,
        relation: Relation,
        discovery: Discovery,
        opaque: Collection[str],
        declared: Mapping[str, str],
    ) -> None:
        self.relation, self.discovery = relation, discovery
        self.opaque = frozenset(opaque)
        known = {name: says for name, says in declared.items() if name in relation.names}
        said = {
            name: {role: float(role is _DECLARED[says][0]) for role in ColumnRole}
            for name, says in known.items()
        }
        self.roles = {**column_roles(relation.columns), **said}
        self.uses = uses(relation.columns, self.roles) | {
            name: _DECLARED[says][1] for name, says in known.items()
        }
        self.order = FinestFirst(relation, self.uses)
        self.free = frozenset(column.name for column in relation.columns if free_name(column))
        self._header = Header(relation.names, self.uses)
        self._arithmetic: dict[Dependency, bool] = {}
        self._gathered: dict[tuple[Dependency, frozenset[str]], Evidence] = {}

    def believed(self, weighed: Weighed, rejected: Collection[Dependency]) -> list[Dependency]:
        """Return the rules that reach the line, with what follows from names and from codes."""
        found = [rule for rule, (_, weighing) in weighed.items() if weighing.total >= BELIEVED_FROM]
        found += self._constants_by_header(found)
        return [*found, *self._codes_of_the_same(found, rejected)]

    def by_codes(
        self, believed: Collection[Dependency], accepted: Collection[Dependency]
    ) -> list[Dependency]:
        """Return believed rules with those that people's names lead told by the code that each has, if any.

        Two people may share a name: what it fixes in these rows, the code fixes.
        """
        codes: dict[str, str] = {}
        for rule in believed:
            (code, *more) = rule.determinant or ("",)
            of_people = rule.dependent in self._people and code and not more and self.order.is_code(code)
            if of_people and self.order.size({code}) == self.order.size({rule.dependent}):
                codes.setdefault(rule.dependent, code)
        found = []
        for rule in believed:
            named = next((name for name in rule.determinant if name in codes), "")
            if rule in accepted or len(rule.determinant) != 1 or not named:
                found.append(rule)
            elif codes[named] != rule.dependent:
                found.append(Dependency(frozenset({codes[named]}), rule.dependent))
        return list(dict.fromkeys(found))

    def without_arithmetic(
        self, believed: Collection[Dependency], accepted: Collection[Dependency]
    ) -> list[Dependency]:
        """Return believed rules without those of determinants that fix nothing but what arithmetic gives.

        Feet fix metres; a table of feet would say nothing.
        """
        groups: dict[frozenset[str], list[Dependency]] = {}
        for rule in believed:
            groups.setdefault(rule.determinant, []).append(rule)
        idle = {
            determinant
            for determinant, rules in groups.items()
            if not set(rules) & set(accepted) and all(map(self._is_arithmetic, rules))
        }
        return [rule for rule in believed if rule.determinant not in idle]

    def _is_arithmetic(self, rule: Dependency) -> bool:
        if rule not in self._arithmetic:
            columns = in_order(rule.determinant, self.relation.names)
            self._arithmetic[rule] = explained(self.relation, columns, rule.dependent)
        return self._arithmetic[rule]

    def referring(self, said: Said, believed: Collection[Dependency]) -> list[Dependency]:
        """Return the rules by which what others are to refer by leads to what it goes one to one with."""
        size, known = self.order.size, frozenset(believed)
        back = [
            Dependency(columns, name)
            for columns in said.refer_by
            for rule in believed
            if rule.dependent in columns and size(rule.determinant) == size(columns | rule.determinant)
            for name in sorted(rule.determinant - columns)
            if size(columns) == size(rule.determinant)
        ]
        return [rule for rule in back if rule not in known and fits_a_key(self.relation, rule)]

    @cached_property
    def _people(self) -> frozenset[str]:
        """The columns of people's names: that none of them comes twice does not say that none will."""
        return frozenset(column.name for column in self.relation.columns if holds_people(column))

    @cached_property
    def _candidates(self) -> list[Dependency]:
        return [rule for rule in self._small if rule not in self.keyless]

    @cached_property
    def _small(self) -> list[Dependency]:
        found = self.discovery.dependencies.up_to(WEIGHED_TO)
        return [rule for rule in found if rule.determinant and not rule.determinant & self.opaque]

    @cached_property
    def keyless(self) -> frozenset[Dependency]:
        """The rules of which no table can hold the facts: the determinant is blank where those are not."""
        return frozenset(rule for rule in self._small if not fits_a_key(self.relation, rule))

    def weighed(self, accepted: Collection[Dependency], rejected: Collection[Dependency]) -> Weighed:
        """Weigh the rules one by one, each on the distinct rows of what is already known to carry it."""
        in_use = {rule.determinant for rule in accepted}
        candidates = [
            rule
            for rule in self._candidates
            if rule not in rejected and (rule.determinant in in_use or not hopeless(rule, self.uses))
        ]
        singles = sorted((rule for rule in candidates if len(rule.determinant) == 1), key=self.order.of_rule)
        known = _Known(rule for rule in accepted if rule.determinant)
        result: Weighed = {}
        for turn in range(3):
            for rule in self._composites(candidates, known) if turn == 1 else singles:
                known.discard(rule)
                if len(rule.determinant) > 1 and _described_elsewhere(rule, known):
                    continue
                result[rule] = told = self._told(rule, known)
                if told[1].total >= BELIEVED_FROM or rule in accepted:
                    known.add(rule)
        return result

    def weighed_beside(self, rules: Collection[Dependency], weighed: Weighed) -> Weighed:
        """Weigh more rules beside those that are believed by what they weigh."""
        known = self._known_by(weighed)
        return {rule: self._told(rule, known) for rule in rules}

    def weighed_against_kind(self, weighed: Weighed) -> Weighed:
        """Weigh beside those that are believed the rules of what seems to be a measure or only tells when.

        None of these is believed. But where such a column came again and again with the same dependents, and
        nothing that is believed explains it, it may be a number that was given out, or a day has its rate.
        Of those for one dependent the one that came again most is told, of two that lead to each other one.
        """
        known = self._known_by(weighed)
        doubted = [rule for rule in self._against_kind if rule not in weighed]
        told = {rule: self._told(rule, known) for rule in doubted if not self._names_known_thing(rule, known)}
        strong = [
            rule
            for rule, (evidence, _) in told.items()
            if evidence.bits >= AGAINST_ITS_KIND_FROM and evidence.tests >= evidence.values
        ]
        more_than_marks = {rule.determinant for rule in strong if self.uses[rule.dependent] is not Use.MARK}
        found: dict[str, Dependency] = {}
        for rule in sorted(strong, key=self._by_size):
            leads_back = any(rule.columns == other.columns for other in found.values())
            if rule.determinant in more_than_marks and not leads_back:
                found.setdefault(rule.dependent, rule)
        return {rule: told[rule] for rule in found.values()}

    def _by_size(self, rule: Dependency) -> tuple[int, tuple[tuple[float, ...], int]]:
        return self.order.size(rule.determinant), self.order.of_rule(rule)

    def _names_known_thing(self, rule: Dependency, known: _Known) -> bool:
        """Whether the determinant of a rule goes one to one with a known thing that tells both columns."""
        told = (home for home in known.determinants if rule.columns <= known.closure(home))
        return any(self.order.size(home) == self.order.size(rule.determinant) for home in told)

    def _known_by(self, weighed: Weighed) -> _Known:
        """Return the rules that are believed by what they weigh."""
        return _Known(rule for rule, (_, weighing) in weighed.items() if weighing.total >= BELIEVED_FROM)

    @cached_property
    def _against_kind(self) -> list[Dependency]:
        """The rules whose determinant is of a kind that hardly decides anything, and comes again often."""
        return [
            rule
            for rule in self._candidates
            if (len(rule.determinant) == 1 or all(self.uses[name] in TIMES for name in rule.determinant))
            and hopeless(rule, self.uses)
            and 2 * self.order.size(rule.determinant) <= self.relation.total
            and not recoded(self.relation, rule, self.uses)
            and not self._is_arithmetic(rule)
        ]

    def _composites(self, candidates: Collection[Dependency], known: _Known) -> list[Dependency]:
        unique = frozenset(self.discovery.keys.up_to(WEIGHED_TO))
        followers = self._followers(known)
        repeated = [
            rule
            for rule in candidates
            if len(rule.determinant) > 1
            and not rule.determinant & followers
            and rule.determinant not in unique
            and not _described_elsewhere(rule, known)
            and not self.order.groupings.reaches(rule.determinant, NEARLY_UNIQUE * self.relation.total)
        ]
        return sorted(repeated, key=self.order.of_rule)

    def _followers(self, known: _Known) -> frozenset[str]:
        """Return the columns that go one to one with what is known to determine them, and come after it.

        A combination with one says nothing that the one with its leader does not.
        """
        size, of = self.order.size, self.order.of
        return frozenset(
            rule.dependent
            for rule in known
            if len(rule.determinant) == 1
            and size(rule.determinant) == size({rule.dependent})
            and of(rule.determinant) < of(frozenset({rule.dependent}))
        )

    def _told(self, rule: Dependency, known: _Known) -> tuple[Evidence, Weighing]:
        """Return what the rows say for a rule beside what is known, and its account."""
        described = _thing_described(rule, known, self.order)
        told = rule, described
        if told not in self._gathered:
            observed = in_order(described, self.relation.names)
            needed = BELIEVED_FROM - prior_bits(rule, self.uses)
            self._gathered[told] = gather(self.relation, rule, observed, needed)
        evidence = self._gathered[told]
        columns = len(known.closure(described)) if described else len(self.relation.names)
        weighing = weigh(
            rule,
            evidence,
            self.uses,
            choice=choice_bits(len(rule.determinant), columns),
            names=self._header.names_bits(rule),
            effect=_effect(rule, evidence, known, self.order),
            half_back=_leads_half_back(rule, known),
            free=rule.determinant <= self.free,
        )
        return evidence, weighing

    def _constants_by_header(self, believed: Collection[Dependency]) -> list[Dependency]:
        """Return, for each constant column, the rule that its name suggests.

        The rows say nothing about a column that is the same in all of them. Where its name holds the noun of
        an identifier, or of a column that is believed to identify something (``drum_no`` and ``drum_kind``),
        it is taken to describe it too.
        """
        identifying = {rule.determinant for rule in believed if len(rule.determinant) == 1}
        columns = [frozenset({name}) for name in self.relation.names]
        identifying |= set(filter(self.order.named_thing, columns))
        candidates = sorted(identifying, key=self.order.of)
        found = []
        for constant in (rule.dependent for rule in self.discovery.dependencies.up_to(0)):
            rules = [Dependency(one, constant) for one in candidates if constant not in one]
            fit = [rule for rule in rules if fits_a_key(self.relation, rule)]
            told = {rule: known_thing_bits(self._header.names_bits(rule)) for rule in fit}
            best = max(told, key=lambda rule: told[rule], default=None)
            found += [best] if best is not None and told[best] >= BELIEVED_FROM else []
        return found

    def _codes_of_the_same(
        self, believed: Collection[Dependency], rejected: Collection[Dependency]
    ) -> list[Dependency]:
        """Return the rules that lead back from a code to what it was given to, one to one.

        A code that is believed to follow from a column, and differs wherever that does, in many values or
        under the same noun, is another name of the same thing; so is what is believed to decide more.
        """
        deciding = {rule.determinant for rule in believed}
        held = {rule for rule in self._candidates if len(rule.determinant) == 1}
        found = []
        for rule in believed:
            if len(rule.determinant) != 1:
                continue
            (name,) = rule.determinant
            code = rule.dependent
            back = Dependency(frozenset({code}), name)
            same = self.order.size({name}) >= MANY_VALUES or share_noun(name, code)
            another = (same and self.order.is_code(code)) or back.determinant in deciding
            if another and back in held and back not in believed and back not in rejected:
                found.append(back)
        return found


def _described_elsewhere(rule: Dependency, known: _Known) -> bool:
    """Return whether a known thing describes the dependent and has nothing to do with the determinant.

    What two unrelated things both seem to determine, the combination of more columns determines by luck.
    """
    homes = [home for home, told in known.determinants.items() if rule.dependent in told and len(home) == 1]
    return any(not rule.determinant <= known.closure(home) for home in homes)


def _leads_half_back(rule: Dependency, known: _Known) -> bool:
    """Whether the dependent is known to determine some columns of a composite determinant, and not all."""
    if len(rule.determinant) == 1:
        return False
    described = rule.determinant & known.closure({rule.dependent})
    return bool(described) and described != rule.determinant


def _effect(rule: Dependency, evidence: Evidence, known: _Known, order: FinestFirst) -> Effect:
    """Return what a rule would do beside those that are known."""
    identifies = order.named_thing(rule.determinant) or rule.determinant in known.determinants
    if evidence.tests == 0:
        if rule.dependent in evidence.observed:
            return Effect.BACK
        if not identifies:
            return Effect.UNTESTED
    return Effect.FURTHER if identifies else Effect.FIRST


def _thing_described(rule: Dependency, known: _Known, order: FinestFirst) -> frozenset[str]:
    """Return the known determinant of the rule's dependent whose values are the observations.

    Where it is known that a drum has one honey type, a row tells nothing new about the type unless its
    drum is new; where it is known that a type has one price, a row tells nothing about which type has
    that price unless its type is new. Of several such determinants the one that leaves the fewest
    observations counts. One that the rule's own determinant is known to determine is a later link of
    the chain and does not; nor does one in one-to-one correspondence that comes later in the order.
    """
    best: frozenset[str] = frozenset()
    determined = known.closure(rule.determinant)
    for determinant in known.determinants:
        reached = known.closure(determinant)
        describes = rule.dependent in reached - determinant or rule.columns <= reached
        if determinant <= determined or not describes:
            continue
        one_to_one = order.size(determinant) == order.size(rule.determinant)
        if one_to_one and order.of(rule.determinant) < order.of(determinant):
            continue
        if not best or order.size(determinant | rule.determinant) < order.size(best | rule.determinant):
            best = determinant
    return best
