"""What a column is, with probabilities."""

from itertools import permutations
from math import isclose

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pravix.judgement.column_roles import ColumnRole, column_roles, looked_at
from pravix.judgement.standards import checked, share_of
from pravix.relation.relation import Column


def role(name, texts, *others):
    columns = [Column.from_texts(name, texts), *(Column.from_texts(one, ["x", "y"]) for one in others)]
    found = column_roles(columns)[name]
    return max(found, key=found.__getitem__)


KEEPERS = ["Anna Berg", "Otto Kranz", "Ines Moor", "Jan Huber", "Rosa Feld", "Karl Amsel"]


@pytest.mark.parametrize(
    ("name", "texts", "expected"),
    [
        ("drum_no", [f"D-{n:04d}" for n in range(40)], ColumnRole.IDENTIFIER),
        ("Imkernummer", [str(40_000 + 7 * n) for n in range(40)], ColumnRole.IDENTIFIER),
        ("hivenum", [str(n * n) for n in range(2, 40)], ColumnRole.IDENTIFIER),
        ("codigo", [f"{n}{n % 7}X" for n in range(20)], ColumnRole.IDENTIFIER),
        ("keeper_name", KEEPERS, ColumnRole.NAME),
        ("village", ["Ost", "Kelder", "Brunn am Steg", "Hohenau", "Sankt Veit"], ColumnRole.NAME),
        ("quality", ["first", "second", "third"] * 4, ColumnRole.CATEGORY),
        ("net_kg", [f"{n / 7:.1f}" for n in range(30, 90)], ColumnRole.QUANTITY),
        ("moisture", [repr(n / 7) for n in range(30, 90)], ColumnRole.QUANTITY),
        ("yield", [repr(n / 7e6) for n in range(1, 90)], ColumnRole.QUANTITY),
        ("Gewicht", [str(3 * n + n % 5) for n in range(60)], ColumnRole.QUANTITY),
        ("attendance", [str(7 * n * n + 13) for n in range(60)], ColumnRole.QUANTITY),
        ("population", [str(1000 + 37 * n**3) for n in range(60)], ColumnRole.QUANTITY),
        ("year", [str(n) for n in range(1990, 2010)], ColumnRole.TIME),
        ("annee", [str(n) for n in range(1990, 2010)], ColumnRole.TIME),
        ("filled_on", [f"2026-05-{n:02d}" for n in range(1, 29)], ColumnRole.TIME),
        ("timestamp", [str(1_400_000_000 + 91_001 * n) for n in range(60)], ColumnRole.TIME),
        ("latitude", [f"{47 + n / 977:.5f}" for n in range(60)], ColumnRole.COORDINATE),
        ("e_mail", [f"keeper{n}@honey.example" for n in range(20)], ColumnRole.CONTACT),
        ("sealed", ["yes", "no"] * 6, ColumnRole.FLAG),
        (
            "remark",
            [f"the lid of drum {n} was open, and some honey was lost on the way" for n in range(20)],
            ColumnRole.TEXT,
        ),
    ],
)
def test_the_likeliest_role(name, texts, expected):
    assert role(name, texts) is expected


def test_other_names_of_the_header_speak_too():
    alone = column_roles([Column.from_texts("apiary", ["3", "14", "15", "92", "65"])])["apiary"]
    names = ("apiary_village", "apiary_region")
    beside = column_roles(
        [Column.from_texts("apiary", ["3", "14", "15", "92", "65"])]
        + [Column.from_texts(name, ["Ost", "Kelder", "Hohenau", "Steg", "Au"]) for name in names]
    )["apiary"]
    assert beside[ColumnRole.IDENTIFIER] > alone[ColumnRole.IDENTIFIER]


@given(st.lists(st.text(max_size=12), min_size=1, max_size=30), st.randoms())
def test_any_column_has_probabilities_whatever_the_order_of_its_rows(texts, rng):
    shuffled = list(texts)
    rng.shuffle(shuffled)
    (one,), (other,) = (
        column_roles([Column.from_texts("drum", rows)]).values() for rows in (texts, shuffled)
    )
    assert isclose(sum(one.values()), 1.0)
    assert all(share >= 0 for share in one.values())
    assert all(isclose(one[found], other[found], abs_tol=1e-9) for found in ColumnRole)


def test_the_values_looked_at_do_not_depend_on_their_order():
    texts = [f"D-{n}" for n in range(2000)]
    found = {tuple(looked_at(Column.from_texts("drum", rows))) for rows in (texts, texts[::-1])}
    assert len(found) == 1
    assert len(next(iter(found))) < len(texts)


def test_no_order_of_the_columns_changes_a_role():
    columns = [
        Column.from_texts("keeper_no", ["K-1", "K-2", "K-3"]),
        Column.from_texts("keeper", KEEPERS[:3]),
        Column.from_texts("keeper_village", ["Ost", "Kelder", "Ost"]),
    ]
    told = [column_roles(order) for order in permutations(columns)]
    assert all(one == told[0] for one in told)


@pytest.mark.parametrize(
    ("form", "values", "fits"),
    [
        ("card numbers", "79927398713 49927398716 1234567812345670".split() * 4, True),
        ("card numbers", "79927398714 49927398717 1234567812345671".split() * 4, False),
        ("articles", "4006381333931 73513537 96385074".split() * 4, True),
        ("articles", "4006381333932 73513538 96385075".split() * 4, False),
        ("accounts", "GB82WEST12345698765432 DE89370400440532013000".split() * 5, True),
        ("accounts", "GB83WEST12345698765432 DE88370400440532013000".split() * 5, False),
        ("ships", "9074729 9176187".split() * 5, True),
        ("ships", "9074720 9176180".split() * 5, False),
        ("too few to tell", "79927398713 49927398716".split(), False),
    ],
)
def test_check_digits(form, values, fits):
    assert checked(values) is fits, form


def test_values_of_standard_lists():
    assert share_of(["AT", "DE", "CHE", "Ost"], "countries") == 0.75
    assert share_of(["mg/l", "kg", "drum"], "units") == pytest.approx(2 / 3)
    assert share_of(["Österreich", "Frankreich", "Italia"], "country names") == 1.0
    assert share_of(["Jan.", "febrero", "dimanche"], "months and days") == 1.0
    assert share_of(["Europe/Vienna"], "zones") == 1.0
    assert share_of([], "currencies") == 0.0
