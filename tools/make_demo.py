"""Makes the demo data: a honey co-operative's delivery sheet, once clean and once rough.

    python tools/make_demo.py [FOLDER]

Writes deliveries.csv, deliveries_rough.csv and deliveries_office.xlsx into FOLDER (default:
src/pravix/demo). The numbers are drawn from a fixed seed, so the files never change unless this script
does. The rough sheet holds lists, numbered columns, misspellings and computed columns; the workbook
also has title lines, merged cells, totals and a note, and knows more: the fittings of a drum, and of a keeper
who taught them and when they were born.
"""

from __future__ import annotations

import csv
import random
import re
import sys
import zipfile
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from decimal import Decimal
from pathlib import Path

from openpyxl import Workbook

SEED = 20260501
DELIVERIES = 66
ROWS = 420

VILLAGES = {
    "Aldermere": "North Moor",
    "Brackwater": "North Moor",
    "Cressing": "North Moor",
    "Dunhallow": "Lower Vale",
    "Esk Bridge": "Lower Vale",
    "Fennel Cross": "Lower Vale",
    "Garrick": "Lower Vale",
    "Hazelbank": "Upper Vale",
    "Inver": "Upper Vale",
    "Juniper End": "Upper Vale",
    "Kelder": "Stone Ridge",
    "Larkfield": "Stone Ridge",
    "Marrow Hill": "Stone Ridge",
}
GIVEN = "Ada Bruno Clara Dario Edda Falk Greta Henrik Ines Jorun Karl Lena Milo Nora Oskar Petra".split()
FAMILY = "Abend Brandt Carver Dorn Ekholm Farrow Grieg Holm Ivers Jansen Kessler Lund Moss Nyberg".split()
SITES = "Heath Orchard Quarry Mill Chapel Spring Birch Meadow Ridge Pond".split()
HONEYS = [
    ("HEA", "Heather", "14.20"),
    ("LIM", "Lime blossom", "11.80"),
    ("CLO", "White clover", "9.40"),
    ("RAP", "Rapeseed", "7.60"),
    ("FIR", "Fir honeydew", "15.50"),
    ("CHE", "Sweet chestnut", "12.90"),
    ("SPR", "Spring blossom", "9.40"),
    ("BUC", "Buckwheat", "10.70"),
]
PLANTS = ["heather", "lime", "clover", "rape", "fir", "chestnut", "dandelion", "willow", "cherry", "sage"]
DEPOTS = {"D1": "Aldermere", "D2": "Garrick", "D3": "Inver", "D4": "Kelder", "D5": "Garrick"}
DRIVERS = ["B. Thorne", "S. Okafor", "L. Winter", "R. Dale"]
TREATMENTS = ["raw", "filtered"]


@dataclass(frozen=True)
class Keeper:
    number: str
    name: str
    phone: str
    village: str


@dataclass(frozen=True)
class Apiary:
    number: str
    name: str
    keeper: Keeper
    plants: tuple[str, ...]


@dataclass(frozen=True)
class Drum:
    number: str
    honey: tuple[str, str, str]
    treatment: str
    tare: Decimal
    filled: Decimal
    apiary: Apiary
    moisture: tuple[str, str, str]


@dataclass(frozen=True)
class Delivery:
    number: str
    day: date
    driver: str
    origin: str
    destination: str


@dataclass(frozen=True)
class Line:
    delivery: Delivery
    drum: Drum
    gross: Decimal

    @property
    def net(self) -> Decimal:
        return self.gross - self.drum.tare

    @property
    def amount(self) -> Decimal:
        return (self.net * Decimal(self.drum.honey[2])).quantize(Decimal("0.01"))


def keepers(draw: random.Random) -> list[Keeper]:
    names = draw.sample([f"{given} {family}" for given in GIVEN for family in FAMILY], 24)
    numbers = sorted(draw.sample(range(101, 180), 24))
    return [
        Keeper(
            f"K-{number}",
            name,
            "" if place in (5, 17) else f"0{draw.randrange(400, 480)} {draw.randrange(10000, 99999)}",
            draw.choice(list(VILLAGES)),
        )
        for place, (number, name) in enumerate(zip(numbers, names, strict=True))
    ]


def apiaries(draw: random.Random, owners: list[Keeper]) -> list[Apiary]:
    numbers = sorted(draw.sample(range(10, 99), 40))
    chosen = [*owners, *draw.choices(owners, k=16)]
    return [
        Apiary(
            f"A{number}",
            draw.choice(SITES),
            keeper,
            tuple(draw.sample(PLANTS, draw.choice([1, 2, 2, 3, 3, 4]))),
        )
        for number, keeper in zip(numbers, chosen, strict=True)
    ]


def drums(draw: random.Random, sites: list[Apiary]) -> list[Drum]:
    found = []
    for number in sorted(draw.sample(range(2001, 2990), 230)):
        water = [f"{draw.uniform(15.2, 19.4):.1f}" for _ in range(draw.choice([1, 2, 2, 3]))]
        found.append(
            Drum(
                str(number),
                draw.choices(HONEYS, weights=[4, 5, 7, 6, 2, 3, 6, 2])[0],
                draw.choices(TREATMENTS, weights=[3, 2])[0],
                Decimal(draw.choice(["17.5", "18.0", "18.5", "21.0", "22.5"])),
                Decimal(draw.randrange(900, 3200)) / 10,
                draw.choice(sites),
                tuple([*water, "", ""][:3]),
            )
        )
    return found


def deliveries(draw: random.Random) -> list[Delivery]:
    days = sorted(date(2026, 5, 4) + timedelta(days=draw.randrange(0, 120)) for _ in range(DELIVERIES))
    found = []
    for place, day in enumerate(days):
        origin, destination = draw.sample(list(DEPOTS), 2)
        driver = "" if place in (11, 40) else draw.choice(DRIVERS)
        found.append(Delivery(str(5001 + place), day, driver, origin, destination))
    return found


def lines(draw: random.Random) -> list[Line]:
    """Draw the rows: each delivery carries several drums; what is left in a drum never grows."""
    stock = drums(draw, apiaries(draw, keepers(draw)))
    left = {drum.number: drum.filled for drum in stock}
    trips = deliveries(draw)
    carried: set[tuple[str, str]] = set()
    pairs = [(draw.choice(trips), drum) for drum in stock]
    while len(pairs) < ROWS:
        pairs.append((draw.choice(trips), draw.choice(stock)))
    while True:
        carried = {(trip.number, drum.number) for trip, drum in pairs}
        if len(carried) == len(pairs):
            break
        seen: set[tuple[str, str]] = set()
        for place, (trip, drum) in enumerate(pairs):
            if (trip.number, drum.number) in seen:
                pairs[place] = (draw.choice(trips), drum)
            seen.add((trip.number, drum.number))
    found = []
    for trip, drum in sorted(pairs, key=lambda pair: (pair[0].number, pair[1].number)):
        if draw.random() < 0.6:
            left[drum.number] = max(Decimal("12.0"), left[drum.number] - Decimal(draw.randrange(0, 800)) / 10)
        found.append(Line(trip, drum, left[drum.number] + drum.tare))
    draw.shuffle(found)
    return sorted(found, key=lambda line: line.delivery.number)


def clean_row(line: Line) -> dict[str, str]:
    drum, delivery = line.drum, line.delivery
    keeper = drum.apiary.keeper
    return {
        "delivery_no": delivery.number,
        "delivered_on": delivery.day.isoformat(),
        "driver": delivery.driver,
        "from_depot": delivery.origin,
        "from_town": DEPOTS[delivery.origin],
        "to_depot": delivery.destination,
        "to_town": DEPOTS[delivery.destination],
        "drum_no": drum.number,
        "honey_code": drum.honey[0],
        "honey": drum.honey[1],
        "price_kg": drum.honey[2],
        "treatment": drum.treatment,
        "gross_kg": f"{line.gross:.1f}",
        "tare_kg": f"{drum.tare:.1f}",
        "net_kg": f"{line.net:.1f}",
        "amount": f"{line.amount:.2f}",
        "apiary_no": drum.apiary.number,
        "apiary": drum.apiary.name,
        "keeper_no": keeper.number,
        "keeper": keeper.name,
        "phone": keeper.phone,
        "village": keeper.village,
        "district": VILLAGES[keeper.village],
    }


def rough_row(line: Line) -> dict[str, str]:
    row = clean_row(line)
    treatment = row.pop("treatment")
    first, second, third = line.drum.moisture
    return row | {
        "raw": "yes" if treatment == "raw" else "no",
        "filtered": "yes" if treatment == "filtered" else "no",
        "forage": "; ".join(line.drum.apiary.plants),
        "moisture_1": first,
        "moisture_2": second,
        "moisture_3": third,
    }


FITTINGS = [
    ("F1", "bung", "0.40"),
    ("F2", "tap", "6.90"),
    ("F3", "seal ring", "0.85"),
    ("F4", "clamp", "2.30"),
    ("F5", "strainer", "4.75"),
    ("F6", "label plate", "1.10"),
]


def office_rows(draw: random.Random, found: list[Line], rough: list[dict[str, str]]) -> list[dict[str, str]]:
    """The rows of the office: with up to two fittings of each drum, and each keeper's mentor and birthday."""
    drums = {line.drum.number: draw.sample(FITTINGS, draw.choice([0, 1, 2, 2])) for line in found}
    people = sorted({line.drum.apiary.keeper.number for line in found})
    more = {}
    for place, number in enumerate(people):
        born = date(1948, 1, 1) + timedelta(days=draw.randrange(18_000))
        mentor = draw.choice(people[:place]) if place > 3 else ""
        more[number] = {"mentor": mentor, "born": born.isoformat()}
    rows = []
    for line, row in zip(found, rough, strict=True):
        fitted = drums[line.drum.number]
        fittings = {
            f"fitting{place + 1}_{fact}": fitted[place][number] if place < len(fitted) else ""
            for place in range(2)
            for number, fact in enumerate(("no", "name", "price"))
        }
        rows.append(row | more[line.drum.apiary.keeper.number] | fittings)
    return rows


MISSPELLED = [
    ("village", "Hazelbank", "Hazlebank"),
    ("village", "Marrow Hill", "Marow Hill"),
    ("honey", "Lime blossom", "Lime blosom"),
    ("honey", "White clover", "white clover"),
    ("from_town", "Garrick", "Garick"),
    ("district", "Lower Vale", "Lower  Vale"),
]


def misspelled(draw: random.Random, rows: list[dict[str, str]]) -> None:
    """Type one cell a few times wrongly, for each of the planted misspellings."""
    for column, right, wrong in MISSPELLED:
        places = [place for place, row in enumerate(rows) if row[column] == right]
        for place in draw.sample(places, min(2, len(places))):
            rows[place][column] = wrong


def write(path: Path, rows: list[dict[str, str]]) -> None:
    with path.open("w", encoding="utf-8", newline="") as file:
        writer = csv.DictWriter(file, list(rows[0]), lineterminator="\n")
        writer.writeheader()
        writer.writerows(rows)


def write_workbook(path: Path, rows: list[dict[str, str]]) -> None:
    """Write the sheet as an office would: titles above, a delivery's number and day merged, totals below."""
    book = Workbook()
    sheet = book.active
    sheet.title = "Deliveries 2026"
    sheet.append(["Deliveries of the honey co-operative, summer 2026"])
    sheet.append(["Printed by the office on 1 September 2026"])
    sheet.append([])
    names = list(rows[0])
    sheet.append(names)
    first = sheet.max_row + 1
    for row in rows:
        sheet.append([typed(name, row[name]) for name in names])
    for name in ("delivery_no", "delivered_on"):
        column = names.index(name) + 1
        for start, end in runs([row[name] for row in rows]):
            if end > start:
                for line in range(first + start + 1, first + end + 1):
                    sheet.cell(line, column).value = None
                sheet.merge_cells(
                    start_row=first + start, end_row=first + end, start_column=column, end_column=column
                )
    sheet.append([])
    for label, scale in (("Total", 1), ("Mean", len(rows))):
        summed = {
            name: sum(float(row[name]) for row in rows) / scale for name in ("gross_kg", "net_kg", "amount")
        }
        sheet.append([label, *(round(summed[name], 2) if name in summed else None for name in names[1:])])
    sheet.append(["Weights in kilograms, amounts without tax."])
    book.properties.created = datetime(2026, 9, 1)
    book.save(path)
    steady(path)


def typed(name: str, cell: str) -> object:
    if not cell:
        return None
    if name in ("delivered_on", "born"):
        return date.fromisoformat(cell)
    numbers = ("delivery_no", "drum_no", "price_kg", "gross_kg", "tare_kg", "net_kg", "amount", "moisture")
    return float(cell) if name.startswith(numbers) or name.endswith("_price") else cell


def runs(cells: list[str]) -> list[tuple[int, int]]:
    """The first and last place of each run of equal cells."""
    starts = [place for place, cell in enumerate(cells) if place == 0 or cell != cells[place - 1]]
    return [(start, end - 1) for start, end in zip(starts, [*starts[1:], len(cells)], strict=True)]


def steady(path: Path) -> None:
    """Take the clock out of a workbook: its times of change, and those of its archive's entries."""
    with zipfile.ZipFile(path) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    core = parts["docProps/core.xml"]
    parts["docProps/core.xml"] = re.sub(
        rb"(<dcterms:modified[^>]*>)[^<]*", rb"\g<1>2026-09-01T00:00:00Z", core
    )
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, part in parts.items():
            archive.writestr(zipfile.ZipInfo(name, (2026, 9, 1, 0, 0, 0)), part, zipfile.ZIP_DEFLATED)


def next_month(rows: list[dict[str, str]]) -> list[dict[str, str]]:
    """The sheet of September: new deliveries of new drums, and twelve things that are not as they were."""
    known = {row["drum_no"]: row for row in rows}
    patterns = list(known.values())[:60]
    new = []
    for place, pattern in enumerate(patterns):
        delivery = patterns[place - place % 4]
        shared = ("driver", "from_depot", "from_town", "to_depot", "to_town")
        new.append(
            pattern
            | {name: delivery[name] for name in shared}
            | {
                "delivery_no": str(5101 + place // 4),
                "delivered_on": f"2026-09-{2 + place // 4:02d}",
                "drum_no": str(4001 + place),
            }
        )
    of_keeper = [row for row in new if row["keeper_no"] == new[8]["keeper_no"]]
    for row in of_keeper[:2]:
        row["phone"] = "0499 10101"  # 1: another phone, in one row or two
    next(row for row in new if row["honey_code"] == "RAP")["price_kg"] = "8.10"  # 2: another price
    new[12]["treatment"] = "creamed"  # 3: none of the checked values
    new[17]["gross_kg"] = "12,5"  # 4: no number
    new[21].update(
        keeper_no="K-300", keeper="Ottilie Marrowfield-Brand", apiary_no="X01", apiary="Weir"
    )  # 5: too long
    new[25]["honey_code"] = ""  # 6: blank
    for place, village in ((29, "Kelder"), (30, "Inver")):  # 7: a new keeper in two villages
        district = next(row["district"] for row in rows if row["village"] == village)
        new[place].update(
            keeper_no="K-301",
            keeper="Pia Nord",
            phone="",
            apiary_no=f"X{place}",
            apiary="Weir",
            village=village,
            district=district,
        )
    new.append(dict(rows[40]))  # 8: a row that is there already
    new.append(rows[50] | {"gross_kg": "199.9"})  # 9: a row that is there with another weight
    new.append(new[35] | {"gross_kg": "98.7"})  # 10: one delivery and drum twice
    changed = next(row for row in new[40:] if row["keeper_no"] not in ("K-300", "K-301"))
    other = "Stone Ridge" if changed["district"] != "Stone Ridge" else "North Moor"
    changed["district"] = other  # 11: another district
    next(row for row in new[44:60] if row["to_town"] == "Garrick")["to_town"] = "Garick"  # 12: another town
    return new


def registers(draw: random.Random, found: list[Line]) -> dict[str, list[dict[str, str]]]:
    """Four registers: keepers, apiaries, hives, inspections; one keeper and one hive are known nowhere else.

    Keys are called ``no`` in their own register, and running numbers and ranks match by luck.
    """
    sites = {line.drum.apiary.number: line.drum.apiary for line in found}
    people = {site.keeper.number: site.keeper for site in sites.values()}
    keepers = [
        {"no": one.number, "name": one.name, "village": one.village, "rank": str(draw.randint(1, 9))}
        for one in people.values()
    ]
    apiaries = [
        {
            "apiary_no": one.number,
            "site": one.name,
            "keeper": one.keeper.number,
            "hives": str(draw.randint(2, 14)),
        }
        for one in sites.values()
    ]
    apiaries[7]["keeper"] = "K-900"
    hives = [
        {
            "hive_no": f"H{place + 101}",
            "apiary_no": draw.choice(apiaries)["apiary_no"],
            "queen_year": str(draw.randint(2022, 2026)),
        }
        for place in range(120)
    ]
    inspections = []
    for place in range(300):
        hive, keeper = draw.choice(hives)["hive_no"], draw.choice(keepers)["no"]
        day = f"2026-{draw.randint(4, 9):02d}-{draw.randint(1, 28):02d}"
        made = {"line": str(place + 1), "hive": hive, "inspected_on": day, "inspector": keeper}
        inspections.append(made | {"frames": str(draw.randint(1, 20))})
    inspections[40]["hive"] = "H999"
    return {"keepers": keepers, "apiaries": apiaries, "hives": hives, "inspections": inspections}


WHITEBOARD = """\
# The co-operative, as somebody wrote it on a whiteboard.
Drum(_drum_no_: integer, honey_code, honey, keeper_no: integer, keeper, phone?)
    honey_code -> honey
    keeper_no -> keeper, phone
    keeper_no refers to Keeper(keeper_no)
Keeper(_keeper_no_: text, name, phone?)
DeliveryLine(delivery_no, drum_no, delivered_on, gross_kg)
    delivery_no, drum_no -> gross_kg
    delivery_no -> delivered_on
Order(_order_no_, keeper_no)
    keeper_no refers to Keepers(keeper_no)
"""


def main() -> None:
    folder = Path(sys.argv[1] if len(sys.argv) > 1 else Path(__file__).parents[1] / "src/pravix/demo")
    draw = random.Random(SEED)
    found = lines(draw)
    write(folder / "deliveries.csv", [clean_row(line) for line in found])
    write(folder / "deliveries_september.csv", next_month([clean_row(line) for line in found]))
    for name, rows in registers(random.Random(SEED + 1), found).items():
        write(folder / f"register_{name}.csv", rows)
    (folder / "whiteboard.txt").write_text(WHITEBOARD, encoding="utf-8")
    rough = [rough_row(line) for line in found]
    misspelled(draw, rough)
    write(folder / "deliveries_rough.csv", rough)
    office = office_rows(random.Random(SEED + 2), found, rough)
    write_workbook(folder / "deliveries_office.xlsx", office)


if __name__ == "__main__":
    main()
