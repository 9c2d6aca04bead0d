"""Deliveries of honey in any number, for the tests of what does not fit into memory."""

import random

NAMES = ["delivery_no", "day", "keeper_no", "keeper", "village", "district", "honey", "price", "kg", "remark"]


def deliveries(count, seed=5):
    draw = random.Random(seed)
    villages = [(f"Village {n}", f"District {n % 7}") for n in range(40)]
    keepers = [(f"K-{n:04d}", f"Ada Moss {n}", *villages[draw.randrange(40)]) for n in range(300)]
    honeys = [(f"Honey {n}", f"{9 + n % 5}.{n % 10}0") for n in range(12)]
    rows = []
    for n in range(count):
        day = f"2026-{draw.randrange(1, 13):02d}-{draw.randrange(1, 29):02d}"
        kg = f"{draw.randrange(200, 900) / 10:.1f}"
        remark = draw.choice(["", "", "late", "damaged"])
        rows.append(
            (f"D-{n:06d}", day, *keepers[draw.randrange(300)], *honeys[draw.randrange(12)], kg, remark)
        )
    return rows


def csv_text(rows, names=NAMES):
    return "".join(",".join(row) + "\n" for row in [names, *rows])
