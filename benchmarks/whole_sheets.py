"""Made-up sheets with parts, links, roles, computed columns and untidy headers, and what is right about them.

A co-operative's jobs at apiaries, as people keep them. Everything follows from the seed: which features a
sheet has, how its columns are called and written, how many rows there are. ``Sheet.right`` says what an
expert would see, each thing as a tuple whose first word is its kind.
"""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass
from datetime import date, timedelta
from random import Random

Thing = tuple[str, ...]

_STYLES = ("snake", "title", "camel", "upper")
_FIRST = "Ida Bruno Pia Rolf Sven Una Kai Tore Ada Nora Ole Eva Liv Jon Mia Per".split()
_LAST = "Moss Holm Dale Berg Aas Lind Fjord Vik Lund Elk Tarn Ford Rowe Kvist Stein Brandt".split()
_PARTS = "seal valve hose clamp lid frame wax gauge strap knife tap sieve bung wick drum cap net rack".split()
_TOOLS = "smoker ladder gloves lamp rope brush torch sledge scale veil".split()
_PLACES = "Aldermere Garrick Inver Kelder Holme Stow Brae Firth Marsh Tarbet Croft Lorne".split()
_STREETS = "Mill Lane|Hive Road|Clover Way|Bee Street|Heather Row|Lime Walk|Fir Close|Sage Lane".split("|")


@dataclass(frozen=True)
class Sheet:
    """A file as text, what is right about it, and which of its features are decoys."""

    seed: int
    text: str
    header: tuple[str, ...]
    right: frozenset[Thing]


class _Making:
    """A sheet in the making: columns with their cells, and what is right."""

    def __init__(self, seed: int) -> None:
        self.random = Random(seed)
        self.style = self.random.choice(_STYLES)
        self.count = self.random.randint(180, 420)
        self.columns: list[tuple[str, list[str]]] = []
        self.right: set[Thing] = set()

    def called(self, *words: str) -> str:
        """Return a column's name in the style of the sheet."""
        if self.style == "snake":
            return "_".join(words)
        if self.style == "upper":
            return "_".join(words).upper()
        if self.style == "title":
            return " ".join(word.capitalize() for word in words)
        return words[0] + "".join(word.capitalize() for word in words[1:])

    def add(self, name: str, cells: list[object]) -> str:
        """Add a column and return its name."""
        self.columns.append((name, ["" if cell is None else str(cell) for cell in cells]))
        return name

    def people(self, count: int) -> list[tuple[str, str]]:
        """Return people with their codes."""
        names = [f"{one} {other}" for one in _FIRST for other in _LAST]
        return [(f"T{number:03d}", name) for number, name in enumerate(self.random.sample(names, count), 11)]


def sheet(seed: int) -> Sheet:
    """Return the sheet of a seed."""
    made = _Making(seed)
    features = made.random.sample(list(_FEATURES), made.random.randint(3, 5))
    job = made.add(made.called("job", "no"), [f"J{number:05d}" for number in range(1, made.count + 1)])
    begun = [date(2025, 1, 1) + timedelta(made.random.randrange(500)) for _ in range(made.count)]
    made.add(made.called("begun", "on"), list(begun))
    hives = _hives(made)
    for name in features:
        _FEATURES[name](made, begun, hives)
    made.add(made.called("state"), [made.random.choice(["open", "done", "late"]) for _ in range(made.count)])
    del job
    return _written(made)


Hives = list[dict[str, str]]
"""For each row its hive: number, apiary, street, code of the street, and the hive that it came from."""


def _hives(made: _Making) -> Hives:
    """Add the hive of each row with what is told of it."""
    random = made.random
    streets = [(f"S{number:02d}", name) for number, name in enumerate(random.sample(_STREETS, 6), 1)]
    apiaries = [
        (f"A{number:02d}", random.choice(_PLACES), *random.choice(streets)) for number in range(1, 13)
    ]
    hives: Hives = []
    for number in range(1, random.randint(50, 90)):
        code, place, street_no, street = random.choice(apiaries)
        mother = random.choice(hives)["hive"] if hives and random.random() < 0.8 else ""
        hives.append(
            {
                "hive": f"H{number:04d}", "apiary": code, "place": place, "street": street,
                "street_no": street_no, "mother": mother, "frames": str(random.randint(8, 24)),
            }
        )  # fmt: skip
    rows = [random.choice(hives) for _ in range(made.count)]
    for key, words in (
        ("hive", ("hive", "no")), ("frames", ("frames",)), ("apiary", ("apiary", "no")),
        ("place", ("apiary",)),
        ("street_no", ("street", "no")), ("street", ("street",)),
    ):  # fmt: skip
        made.add(made.called(*words), [row[key] for row in rows])
    return rows


def _parts(made: _Making, begun: list[date], hives: Hives) -> None:
    """Add a numbered family with facts of its own: a part has one name and one price."""
    random = made.random
    stock = [(f"P{number}", name, f"{random.randint(2, 80)}.{random.randrange(10)}0")
             for number, name in enumerate(random.sample(_PARTS, 14), 100)]  # fmt: skip
    positions = random.choice([2, 3])
    used = [random.sample(stock, random.randint(0, positions)) for _ in range(made.count)]
    behind = random.random() < 0.3 and made.style == "snake"
    for place in range(positions):
        for fact, words in enumerate(("no", "name", "price", "qty")):
            name = f"part_{words}_{place + 1}" if behind else made.called(f"part{place + 1}", words)
            cells = [
                None if len(row) <= place else row[place][fact] if fact < 3 else random.randint(1, 9)
                for row in used
            ]
            made.add(name, cells)
    made.right |= {("family", "part"), ("part table", "part")}


def _mother(made: _Making, begun: list[date], hives: Hives) -> None:
    """Add a column by which hives refer to hives."""
    name = made.add(
        made.called(made.random.choice(["mother", "split", "origin"]), "hive"),
        [row["mother"] for row in hives],
    )
    made.right.add(("link", name, made.called("hive", "no")))


def _street_of_shed(made: _Making, begun: list[date], hives: Hives) -> None:
    """Add a shed with its street by name, where streets have codes."""
    random = made.random
    streets = sorted({row["street"] for row in hives})
    sheds = [(f"D{number}", random.choice(streets)) for number in range(1, 9)]
    used = [random.choice(sheds) for _ in range(made.count)]
    made.add(made.called("shed"), [one for one, _ in used])
    name = made.add(made.called("shed", "street"), [street for _, street in used])
    made.right.add(("link", name, made.called("street")))


def _seen_as_well(made: _Making, begun: list[date], hives: Hives) -> None:
    """Add a list of hives that were seen as well."""
    random = made.random
    known = sorted({row["hive"] for row in hives})
    cells = ["; ".join(random.sample(known, random.randint(1, 3))) for _ in range(made.count)]
    name = made.add(made.called("also", "seen"), list(cells))
    made.right |= {("list", name), ("link", name, made.called("hive", "no"))}


def _lead_and_helper(made: _Making, begun: list[date], hives: Hives) -> None:
    """Add two people in two functions, the same people in both."""
    random = made.random
    people = made.people(random.randint(8, 14))
    here, there = random.choice([("lead", "helper"), ("from", "to"), ("first", "second")])
    bare = random.random() < 0.4
    one = (["keeper"], [here, "keeper"])[not bare]
    other = [there, "keeper"]
    ends = []
    for words in (one, other):
        used = [random.choice(people) for _ in range(made.count)]
        ends.append(made.add(made.called(*words, "no"), [code for code, _ in used]))
        made.add(made.called(*words, "name"), [name for _, name in used])
    made.right.add(("role", *sorted(ends)))


def _vet_and_driver(made: _Making, begun: list[date], hives: Hives) -> None:
    """Add two people in two functions who are never the same: a decoy."""
    random = made.random
    people = made.people(20)
    for words, some, mark in ((("vet",), people[:9], "V"), (("driver",), people[9:], "R")):
        used = [random.choice(some) for _ in range(made.count)]
        made.add(made.called(*words, "no"), [mark + code[1:] for code, _ in used])
        made.add(made.called(*words), [name for _, name in used])


def _tools(made: _Making, begun: list[date], hives: Hives) -> None:
    """Add a list of words."""
    mark = made.random.choice(["; ", ", ", " | "])
    cells = [mark.join(made.random.sample(_TOOLS, made.random.randint(1, 4))) for _ in range(made.count)]
    made.right.add(("list", made.add(made.called("tools"), list(cells))))


def _authors(made: _Making, begun: list[date], hives: Hives) -> None:
    """Add several people in one cell, the last after a word."""
    people = [name for _, name in made.people(9)]
    last = made.random.choice([" and ", " & "])
    cells = []
    for _ in range(made.count):
        some = made.random.sample(people, made.random.randint(1, 4))
        cells.append(some[0] if len(some) == 1 else ", ".join(some[:-1]) + last + some[-1])
    made.right.add(("list", made.add(made.called("reported", "by"), list(cells))))


def _due(made: _Making, begun: list[date], hives: Hives) -> None:
    """Add days and the date after them."""
    days = [made.random.randint(3, 60) for _ in range(made.count)]
    made.add(made.called("days", "allowed"), list(days))
    due = [day + timedelta(some) for day, some in zip(begun, days, strict=True)]
    made.right.add(("computed", made.add(made.called("due", "on"), list(due))))


def _taken(made: _Making, begun: list[date], hives: Hives) -> None:
    """Add the date of the end and the days between."""
    ended = [day + timedelta(made.random.randint(0, 70)) for day in begun]
    made.add(made.called("ended", "on"), list(ended))
    days = [(last - first).days for first, last in zip(begun, ended, strict=True)]
    made.right.add(("computed", made.add(made.called("days", "taken"), list(days))))


def _dry(made: _Making, begun: list[date], hives: Hives) -> None:
    """Add a share and the rest to a hundred."""
    wet = [made.random.randint(10, 90) for _ in range(made.count)]
    made.add(made.called("wet", "pct"), list(wet))
    made.right.add(("computed", made.add(made.called("dry", "pct"), [100 - one for one in wet])))


def _metres(made: _Making, begun: list[date], hives: Hives) -> None:
    """Add a height in feet and in metres."""
    feet = [made.random.randint(100, 3000) for _ in range(made.count)]
    made.add(made.called("height", "ft"), list(feet))
    metres = [f"{one * 0.3048:.1f}" for one in feet]
    made.right.add(("computed", made.add(made.called("height", "m"), list(metres))))


def _oil(made: _Making, begun: list[date], hives: Hives) -> None:
    """Add weights with blanks and their sum."""
    weights = [
        [made.random.choice([None, made.random.randint(1, 40)]) for _ in range(3)] for _ in range(made.count)
    ]
    for place, words in enumerate(("spring", "summer", "autumn")):
        made.add(made.called(words, "kg"), [row[place] for row in weights])
    sums = [sum(one for one in row if one) if any(row) else None for row in weights]
    made.right.add(("computed", made.add(made.called("year", "kg"), list(sums))))


def _mean(made: _Making, begun: list[date], hives: Hives) -> None:
    """Add two readings and their mean."""
    pairs = [(made.random.randint(140, 220), made.random.randint(140, 220)) for _ in range(made.count)]
    made.add(made.called("reading", "low"), [one for one, _ in pairs])
    made.add(made.called("reading", "high"), [other for _, other in pairs])
    mean = [f"{(one + other) / 2:.1f}" for one, other in pairs]
    made.right.add(("computed", made.add(made.called("reading", "mean"), list(mean))))


def _measures(made: _Making, begun: list[date], hives: Hives) -> None:
    """Add small whole numbers that say how much, and are among many keys by luck: a decoy."""
    made.add(made.called("stings"), [made.random.randint(0, 9) for _ in range(made.count)])
    made.add(made.called("weight", "kg"), [f"{made.random.uniform(5, 60):.1f}" for _ in range(made.count)])


_FEATURES = {
    "parts": _parts,
    "mother": _mother,
    "shed": _street_of_shed,
    "also seen": _seen_as_well,
    "roles": _lead_and_helper,
    "decoy people": _vet_and_driver,
    "tools": _tools,
    "authors": _authors,
    "due": _due,
    "taken": _taken,
    "dry": _dry,
    "metres": _metres,
    "oil": _oil,
    "mean": _mean,
    "decoy measures": _measures,
}


def _written(made: _Making) -> Sheet:
    """Write the sheet as people do: with titles above, units below the header, or the header again."""
    random = made.random
    header = [name for name, _ in made.columns]
    rows = [list(cells) for cells in zip(*(cells for _, cells in made.columns), strict=True)]
    width = len(header)
    kind = random.choice(["plain", "title", "two cells", "again", "units"])
    lines: list[list[str]] = [header, *rows]
    if kind == "title":
        lines = [["Jobs 2026"], [], *lines]
    elif kind == "two cells":
        lines = [["Jobs 2026", "Inver"], [""] * width, *lines]
    elif kind == "again":
        lines = [header, *rows[: len(rows) // 2], header, *rows[len(rows) // 2 :]]
    elif kind == "units":
        units = ["kg" if "kg" in name.lower() else "%" if "pct" in name.lower() else "" for name in header]
        if any(units):
            lines = [header, units, *rows]
    text = io.StringIO()
    csv.writer(text, lineterminator="\n").writerows(lines)
    made.right.add(("header", kind))
    return Sheet(0, text.getvalue(), tuple(header), frozenset(made.right))
