"""Sheets with parts, self-references, roles and formulas, made by rules of their own."""

from datetime import date, timedelta
from random import Random

from pravix.relation.relation import Relation

STOCK = [
    (f"P{100 + n}", name, f"{3 * n + 1}.50")
    for n, name in enumerate("seal valve hose clamp lid wax gauge".split())
]
PEOPLE = [
    (f"T{n + 11}", f"{name} Moss")
    for n, name in enumerate("Ida Bruno Pia Rolf Sven Una Kai Ada Nora Ole".split())
]


def jobs(count=120):
    """Jobs with up to two parts each, a leader, and two helpers from the same people."""
    header = ["job", "begun", "lead_tech_no", "lead_tech_name"]
    header += [f"part{place}_{fact}" for place in (1, 2) for fact in ("no", "name", "price", "qty")]
    header += [f"tech{place}_{fact}" for place in (1, 2) for fact in ("no", "name")]
    rows = []
    for n in range(count):
        parts = [STOCK[n * 3 % 7], STOCK[(n * 5 + 2) % 7]][: 1 + (n % 3 > 0)]
        techs = [PEOPLE[n * 7 % 10], PEOPLE[(n * 3 + 4) % 10]][: 1 + n % 2]
        cells = [f"J{n:03d}", (date(2026, 1, 1) + timedelta(n * 2)).isoformat(), *PEOPLE[(n * n + 3) % 10]]
        for place in range(2):
            cells += (
                [*parts[place], str(1 + (n * 7 + place * 3 + n // 5) % 4)] if place < len(parts) else [""] * 4
            )
        for place in range(2):
            cells += [*techs[place]] if place < len(techs) else [""] * 2
        rows.append(cells)
    return Relation.from_rows(header, rows)


def poles(count=240, circle=False):
    """Visits to poles; a pole is fed from another, its cabinet's street is given by name."""
    streets = [
        (f"S{n}", name)
        for n, name in enumerate("Mill_Lane Hive_Road Clover_Way Quay Fir_Close Lime_Walk".split())
    ]
    made, draw = [], Random(5)
    for n in range(40):
        fed = f"P{draw.randrange(n):03d}" if n > 2 else ""
        if circle and n in (0, 1):
            fed = f"P{1 - n:03d}"
        made.append([f"P{n:03d}", *streets[n * 5 % 6], fed, f"C{n % 8}", streets[(n % 8) * 5 % 6][1]])
    rows = []
    for n in range(count):
        rows.append([f"V{n:04d}", *made[n * 11 % 40], f"{n % 17}.{n % 10}"])
    header = [
        "visit",
        "pole",
        "street_code",
        "street",
        "fed_from_pole",
        "cabinet",
        "cabinet_street",
        "metres",
    ]
    return Relation.from_rows(header, rows)


def computed(count=60):
    """A column for each formula that numbers and dates allow, beside those that it comes from."""
    rows, draw = [], Random(8)
    for n in range(count):
        begun = date(2025, 1, 5) + timedelta(days=n * 13 % 400)
        born = date(1955, 3, 2) + timedelta(days=n * 271)
        days, low, high, feet, wet = (
            3 + n * 7 % 50,
            140 + n * 3 % 77,
            141 + n * 5 % 83,
            100 + n * 37 % 900,
            n * 3 % 91,
        )
        day = date(2026, 6, 1)
        age = day.year - born.year - ((day.month, day.day) < (born.month, born.day))
        oil = [draw.choice([None, draw.randint(1, 40)]) for _ in range(3)]
        rows.append(
            [
                f"J{n:03d}", begun, days, begun + timedelta(days), born, age, begun.year - born.year,
                *("" if one is None else one for one in oil), sum(one for one in oil if one) or "",
                low, high, f"{(low + high) / 2:.1f}", feet, f"{feet * 0.3048:.1f}", wet, 100 - wet,
            ]
        )  # fmt: skip
    header = (
        "job begun days due born age years oil_a oil_b oil_c oil low high mean feet metres wet dry".split()
    )
    return Relation.from_rows(header, [list(map(str, row)) for row in rows])


FORMULAS = {"due", "age", "years", "oil", "mean", "metres", "dry"}
"""The columns of ``computed`` that others compute."""
