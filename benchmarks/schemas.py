"""Made-up schemas with known rules, and the flat rows that an export of them would hold.

Every schema belongs to a family, and everything in it follows from the family and a seed: which things
there are, how many of each, what describes them, how the columns are called, which cells are blank.
Nothing in a row tells which of its repetitions are rules and which are luck; only ``Case.rules`` does.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from random import Random

from naming_styles import STYLES, Label
from vocabulary import DESCRIPTIONS, EVENTS, ROLES, THINGS, Maker, code_maker, person, proper_name

from pravix.theory.dependency import Dependency

Row = dict[Label, str]

FAMILIES = (
    "plain",
    "star",
    "snowflake",
    "chain",
    "dated",
    "junction",
    "lines",
    "rate",
    "roles",
    "unnamed",
    "nested",
    "overlapping",
    "twins",
    "namesakes",
    "left_joined",
    "periods",
    "languages",
    "glued",
    "places",
    "short_span",
    "single",
)


_UNNAMED = ("star", "snowflake", "chain", "dated", "junction", "lines", "rate", "roles")
_CODED = ("twins", "namesakes", "nested", "overlapping", "periods", "short_span", "places")
_STYLE_OF = {"unnamed": "numbered", "glued": "glued", "languages": "translated"}
_REGIONS = ("North Fell", "Vale", "East Marsh", "Upper Dale", "Coast")


@dataclass(frozen=True)
class Case:
    """A flat table with the rules and the tables that an expert would draw from it.

    ``tables`` maps the columns of each right table to its right keys; ``twins`` gives for each further
    identifying column of a thing the one that leads: other tables may refer by either. ``roles`` gives for
    each column what it is, in the words of ``vocabulary.ROLES``.
    """

    family: str
    seed: int
    header: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    rules: tuple[Dependency, ...]
    tables: dict[frozenset[str], tuple[frozenset[str], ...]]
    twins: dict[str, str]
    roles: dict[str, str]


@dataclass(eq=False)
class _Thing:
    """A kind of thing with its instances: what identifies it, what describes it, what it belongs to.

    ``optional`` is the share of instances that do not belong to the last of its parents; where they go
    ``together``, each of the first parents is seen with one of the second only, by luck.
    """

    noun: str
    key: list[Label]
    second_key: Label | None = None
    described: list[Label] = field(default_factory=list)
    parents: list[tuple[_Thing, str]] = field(default_factory=list)
    optional: float = 0.0
    together: bool = False
    instances: list[Row] = field(default_factory=list)

    def columns(self, role: str = "") -> list[Label]:
        """Return the columns of its own table, in a role where it has one."""
        own = [*self.key, *([self.second_key] if self.second_key else []), *self.described]
        found = [label.as_role(role) for label in own]
        for parent, inner in self.parents:
            found += [label.as_role(inner or role) for label in parent.key]
        return list(dict.fromkeys(found))

    def all_columns(self, role: str = "") -> list[Label]:
        """Return the columns of its table and of all that it belongs to."""
        found = self.columns(role)
        for parent, inner in self.parents:
            found += parent.all_columns(inner or role)
        return list(dict.fromkeys(found))


def case(family: str, seed: int) -> Case:
    """Return the case of a family and a seed; the same ones give the same case."""
    return _Builder(family, Random(f"{family} {seed}"), seed).built()


class _Builder:
    def __init__(self, family: str, rng: Random, seed: int) -> None:
        self._family = family
        self._rng = rng
        self._seed = seed
        self._shape = rng.choice(_UNNAMED) if family == "unnamed" else family
        self._nouns = rng.sample(sorted(THINGS), len(THINGS))
        self._makers: dict[Label, Maker] = {}
        self._seen: dict[str, int] = {}
        self._row_count = round(40 * 125 ** rng.random() ** 1.4)

    def built(self) -> Case:
        main = self._main()
        self._fill(main)
        return self._case(main)

    # -- what there is

    def _main(self) -> _Thing:
        shapes: dict[str, Callable[[], _Thing]] = {
            "plain": lambda: self._event([]),
            "star": lambda: self._event(self._some(self._rng.randint(2, 4), 1)),
            "snowflake": lambda: self._event(self._some(self._rng.randint(2, 3), 3)),
            "chain": lambda: self._event([(self._chain(self._rng.randint(3, 4)), "")]),
            "dated": self._dated,
            "junction": self._junction,
            "lines": self._lines,
            "rate": self._rate,
            "roles": self._roles,
            "nested": self._nested,
            "overlapping": self._overlapping,
            "twins": lambda: self._event(self._some(self._rng.randint(2, 3), 2)),
            "namesakes": lambda: self._event(self._some(self._rng.randint(2, 3), 1)),
            "left_joined": lambda: self._event(self._some(self._rng.randint(2, 4), 2)),
            "periods": self._periods,
            "languages": lambda: self._event(self._some(self._rng.randint(2, 4), 2)),
            "glued": lambda: self._event(self._some(self._rng.randint(2, 4), 2)),
            "places": self._places,
            "short_span": self._short_span,
            "single": self._single,
        }
        return shapes[self._shape]()

    def _some(self, number: int, depth: int) -> list[tuple[_Thing, str]]:
        return [(self._thing(depth), "") for _ in range(number)]

    def _thing(self, depth: int) -> _Thing:
        """Return a thing; below depth 1 it may belong to another."""
        noun = self._nouns.pop()
        kind = THINGS[noun]
        made = _Thing(noun, [])
        name_only = self._rng.random() < 0.2 and self._family not in _CODED
        if name_only:
            made.key = [Label(noun, self._rng.choice(("", "name")))]
            self._makers[made.key[0]] = person if kind == "person" else proper_name
        else:
            made.key = [Label(noun, self._rng.choice(("no", "id", "code", "")))]
            self._makers[made.key[0]] = code_maker(self._rng)
            if self._family == "twins":
                made.second_key = Label(noun, "abbr")
                self._makers[made.second_key] = code_maker(self._rng)
            elif self._rng.random() < 0.6 and self._family != "namesakes":
                made.second_key = Label(
                    noun, self._rng.choice(("name", "name", "")) if made.key[0].word else "name"
                )
                self._makers[made.second_key] = person if kind == "person" else proper_name
        least = 1 if made.second_key is None else 0
        made.described = self._described(noun, DESCRIPTIONS[kind], self._rng.randint(least, 3))
        if self._family == "namesakes":
            name = Label(noun, "name")
            pool = [proper_name(self._rng, 0) for _ in range(self._rng.randint(6, 25))]
            self._makers[name] = lambda rng, number: rng.choice(pool)
            made.described = [name, *made.described]
        if depth > 1 and self._rng.random() < 0.75:
            made.parents = [(self._thing(depth - 1), "")]
        return made

    def _chain(self, length: int) -> _Thing:
        made = self._thing(1)
        if length > 1:
            made.parents = [(self._chain(length - 1), "")]
        return made

    def _event(self, parents: list[tuple[_Thing, str]]) -> _Thing:
        noun = self._rng.choice(sorted(EVENTS))
        made = _Thing(noun, [Label(noun, self._rng.choice(("no", "id")))], parents=parents)
        self._makers[made.key[0]] = code_maker(self._rng, long=True)
        made.described = self._described(noun, EVENTS[noun], self._rng.randint(2, 5))
        often = {"star": 0.25, "snowflake": 0.25, "left_joined": 1.0}.get(self._family, 0.0)
        if len(parents) > 1 and self._rng.random() < often:
            made.optional = self._rng.uniform(0.05, 0.4)
        return made

    def _dated(self) -> _Thing:
        """A thing at a date, or at a date with a number, identifies a row."""
        made = self._event(self._some(self._rng.randint(1, 3), 2))
        day = Label(made.noun, self._rng.choice(("date", "day", "on")))
        self._makers[day] = DESCRIPTIONS["day"]["day"]
        made.key = [*made.parents[0][0].key, day]
        if self._rng.random() < 0.4:
            made.key = [day, Label(made.noun, "no")]
            self._makers[made.key[1]] = lambda rng, n: str(rng.randint(1, 12))
        return made

    def _junction(self) -> _Thing:
        made = self._event(self._some(2, 2))
        made.key = [made.parents[0][0].key[0], made.parents[1][0].key[0]]
        return made

    def _lines(self) -> _Thing:
        """A thing with numbered lines, each about another thing."""
        head = self._thing(1)
        head.parents = self._some(self._rng.randint(1, 2), 2)
        made = self._event([(head, ""), *self._some(self._rng.randint(1, 2), 1)])
        line = Label(made.noun, "line")
        self._makers[line] = lambda rng, n: str(rng.randint(1, 9))
        made.key = [*head.key, line]
        return made

    def _rate(self) -> _Thing:
        """Two things together determine a fact: the price of a kind in a size."""
        kind, size = self._thing(1), self._thing(1)
        rate = _Thing("rate", [kind.key[0], size.key[0]], parents=[(kind, ""), (size, "")])
        rate.described = self._described("rate", DESCRIPTIONS["rate"], self._rng.randint(1, 2))
        return self._event([(rate, ""), *self._some(self._rng.randint(0, 2), 2)])

    def _roles(self) -> _Thing:
        place = self._thing(self._rng.randint(1, 2))
        one, other = self._rng.choice((("from", "to"), ("first", "second"), ("sending", "receiving")))
        return self._event([(place, one), (place, other), *self._some(self._rng.randint(0, 2), 1)])

    def _at(self, thing: _Thing, times: list[Label], noun: str) -> _Thing:
        """Return what is told of a thing at a time: its year, its day."""
        made = _Thing(noun, [*thing.key, *times], parents=[(thing, "")])
        made.described = self._described(noun, DESCRIPTIONS["rate"], self._rng.randint(1, 2))
        return made

    def _year(self) -> Label:
        label = Label(self._rng.choice(("", "season")), "year")
        self._makers[label] = lambda rng, number: str(rng.randint(2015, 2021))
        return label

    def _nested(self) -> _Thing:
        """A thing, the thing on a day, and lines of that: one key inside the other."""
        head = self._thing(1)
        day = Label("run", "date")
        self._makers[day] = DESCRIPTIONS["day"]["day"]
        run = self._at(head, [day], "run")
        made = self._event([(run, ""), *self._some(self._rng.randint(0, 2), 1)])
        line = Label(made.noun, "line")
        self._makers[line] = lambda rng, number: str(rng.randint(1, 9))
        made.key = [*run.key, line]
        return made

    def _overlapping(self) -> _Thing:
        """One thing in a year, and another in the same year, both with facts of their own."""
        year = self._year()
        team = self._at(self._thing(1), [year], "standing")
        member = self._thing(1)
        made = self._event([(team, ""), (member, "")])
        made.key = [member.key[0], *team.key]
        return made

    def _periods(self) -> _Thing:
        """A thing in a year, or in a month of a year."""
        times = [self._year()]
        if self._rng.random() < 0.5:
            times.append(Label("", "month"))
            self._makers[times[-1]] = lambda rng, number: str(rng.randint(1, 12))
        made = self._event(self._some(self._rng.randint(1, 2), 2))
        made.key = [made.parents[0][0].key[0], *times]
        return made

    def _places(self) -> _Thing:
        """Places with a postcode, a town and a region, which go together and follow the place alone."""
        site = self._thing(1)
        towns = [(proper_name(self._rng, 0), self._rng.choice(_REGIONS)) for _ in range(25)]
        codes = [str(self._rng.randint(10000, 99999)) for _ in towns]
        words = ("town", "region", "postcode")
        labels = [Label(site.noun, word) for word in words]
        site.described += labels
        chosen: dict[int, int] = {}

        def maker(part: int) -> Maker:
            def made(rng: Random, number: int) -> str:
                place = chosen.setdefault(number, rng.randrange(len(towns)))
                return (*towns[place], codes[place])[part]

            return made

        self._makers |= {label: maker(part) for part, label in enumerate(labels)}
        return self._event([(site, ""), *self._some(self._rng.randint(0, 2), 1)])

    def _short_span(self) -> _Thing:
        """In a week a machine is seen with one operator, though any may use it."""
        machine, operator = self._thing(1), self._thing(1)
        made = self._event([(machine, ""), (operator, "")])
        day = Label(made.noun, "date")
        self._makers[day] = lambda rng, number: f"2024-05-{rng.randint(6, 12):02d}"
        made.described = [day, *(label for label in made.described if label.word not in ("date", "taken_on"))]
        made.together = True
        return made

    def _single(self) -> _Thing:
        """One table already: a code and a time, and what was measured."""
        noun = self._nouns.pop()
        made = self._event([])
        code = Label(noun, self._rng.choice(("no", "code", "name")))
        pool = [code_maker(self._rng)(self._rng, number) for number in range(1, 30)]
        self._makers[code] = lambda rng, number: rng.choice(pool)
        day = Label(made.noun, "date")
        self._makers[day] = DESCRIPTIONS["day"]["day"]
        made.key = [code, self._year() if self._rng.random() < 0.4 else day]
        made.described = [label for label in made.described if label != day]
        return made

    def _described(self, noun: str, makers: dict[str, Maker], number: int) -> list[Label]:
        chosen = self._rng.sample(sorted(makers), min(number, len(makers)))
        labels = [Label(noun, word) for word in chosen]
        self._makers |= {label: makers[label.word] for label in labels}
        return labels

    # -- how many, and with which values

    def _fill(self, main: _Thing) -> None:
        for parent in dict.fromkeys(parent for parent, _ in main.parents):
            self._fill_thing(parent, self._row_count)
        seen: set[tuple[str, ...]] = set()
        number = 0
        while len(main.instances) < self._row_count and number < 5 * self._row_count:
            number += 1
            row = self._instance(main, number)
            key = tuple(row[label] for label in main.key)
            if key not in seen:
                seen.add(key)
                main.instances.append(row)

    def _fill_thing(self, thing: _Thing, below: int) -> None:
        if thing.instances:
            return
        for parent, _ in thing.parents:
            self._fill_thing(parent, max(4, below // 3))
        if thing.noun == "rate":
            first, second = (parent for parent, _ in thing.parents)
            thing.instances = [
                {**one, **other, **self._own(thing, 0)}
                for one in first.instances[:12]
                for other in second.instances[:6]
            ]
            return
        if len(thing.key) > 1:
            met: dict[tuple[str, ...], Row] = {}
            for number in range(max(8, below // 3)):
                row = self._instance(thing, number)
                met.setdefault(tuple(row[label] for label in thing.key), row)
            thing.instances = list(met.values())
            return
        wanted = self._rng.randint(3, max(4, min(below // 3, round(3 + below**0.75))))
        seen: set[tuple[Label, str]] = set()
        while len(thing.instances) < wanted:
            row = self._instance(thing, len(thing.instances) + 1)
            identifying = [*thing.key, *([thing.second_key] if thing.second_key else [])]
            if not any((label, row[label]) in seen for label in identifying):
                seen.update((label, row[label]) for label in identifying)
                thing.instances.append(row)

    def _instance(self, thing: _Thing, number: int) -> Row:
        row: Row = {}
        for place, (parent, role) in enumerate(thing.parents, 1):
            if place == len(thing.parents) and self._rng.random() < thing.optional:
                row = {label.as_role(role): "" for label in parent.all_columns()} | row
                continue
            skewed = int(len(parent.instances) * self._rng.random() ** 1.5)
            if thing.together and place > 1:
                first = row[thing.parents[0][0].key[0].as_role(thing.parents[0][1])]
                skewed = self._seen.setdefault(first, skewed)
            row |= {label.as_role(role): text for label, text in parent.instances[skewed].items()}
        return {**row, **self._own(thing, number, row)}

    def _own(self, thing: _Thing, number: int, given: Row | None = None) -> Row:
        labels = [*thing.key, *([thing.second_key] if thing.second_key else []), *thing.described]
        return {
            label: self._makers[label](self._rng, number)
            for label in labels
            if (given is None and label in thing.described) or (given is not None and label not in given)
        }

    # -- as a case

    def _case(self, main: _Thing) -> Case:
        labels = main.all_columns()
        if self._rng.random() < 0.3:
            self._rng.shuffle(labels)
        style = _STYLE_OF.get(self._family) or self._rng.choice(sorted(STYLES))
        names = STYLES[style](labels, self._rng)
        rules: list[Dependency] = []
        tables: dict[frozenset[str], tuple[frozenset[str], ...]] = {}
        for thing, role in _everything(main, ""):
            columns = [names[label] for label in thing.columns(role)]
            keys = [frozenset(names[label.as_role(role)] for label in thing.key)]
            if thing.second_key is not None:
                keys.append(frozenset({names[thing.second_key.as_role(role)]}))
            if len(columns) > len(keys[0]):
                rules += [Dependency(key, name) for key in keys for name in columns if name not in key]
                tables[frozenset(columns)] = tuple(keys)
        twins = {
            names[thing.second_key.as_role(role)]: names[thing.key[0].as_role(role)]
            for thing, role in _everything(main, "")
            if thing.second_key is not None
        }
        order = self._rng.sample(range(len(main.instances)), len(main.instances))
        rows = [tuple(main.instances[place][label] for label in labels) for place in order]
        header = tuple(names[label] for label in labels)
        roles = {names[label]: self._role(label) for label in labels}
        return Case(self._family, self._seed, header, tuple(rows), tuple(rules), tables, twins, roles)

    def _role(self, label: Label) -> str:
        """Return what a column is: by how its values are made where they identify, else by its word."""
        maker = next(
            made for one, made in self._makers.items() if (one.noun, one.word) == (label.noun, label.word)
        )
        if maker in (proper_name, person) or label.word == "name":
            return "name"
        return ROLES.get(label.word, "identifier")


def _everything(thing: _Thing, role: str) -> list[tuple[_Thing, str]]:
    """Return a thing and all that it belongs to, each with its role, once."""
    found = [(thing, role)]
    for parent, inner in thing.parents:
        found += _everything(parent, inner or role)
    return list(dict.fromkeys(found))
