"""The types of columns: with room for more than the sample shows, and as the analyst says."""

from dataclasses import replace

import pytest

from pravix.analysis import Analysis
from pravix.design.typed import MOST_IN_A_KEY, roomy, said_type
from pravix.errors import InputError
from pravix.ledger.wishes import Arrangement
from pravix.relation.relation import Column
from pravix.relation.types import ColumnType, Kind, column_type, misfit


@pytest.mark.parametrize(
    ("texts", "told"),
    [
        (["Heath and lime", "Rape"], "text(50)"),
        (["Ada Moss", "Bo Field"], "text(20)"),
        (["K-01", "K-02"], "code A-99"),
        (["HEA", "LIME"], "code(10)"),
        (["12.5", "7.25"], "decimal(6,2)"),
        (["1234567890123.5"], "decimal(15,1)"),
        (["1" * 20 + ".5", "2.5"], "text(50)"),
        (["2024-05-01"], "date"),
        (["1.5.2024", "12.10.2024"], "date"),
    ],
)
def test_a_type_gets_room_unless_it_has_one_form(texts, told):
    assert str(roomy(column_type(Column.from_texts("a", texts)))) == told


def test_room_of_texts_numbers_and_blanks():
    assert roomy(ColumnType(Kind.TEXT, 330)).length == 500
    assert roomy(ColumnType(Kind.TEXT, 400)).length == 1000
    assert roomy(ColumnType(Kind.TEXT, 400), keyed=1).length == MOST_IN_A_KEY
    assert roomy(ColumnType(Kind.TEXT, 150), keyed=3).length == MOST_IN_A_KEY // 3
    assert roomy(ColumnType(Kind.TEXT, 700), keyed=1).length == 700
    assert roomy(ColumnType(Kind.TEXT, 3900)).length == 4000
    assert roomy(ColumnType(Kind.TEXT, 9000)).length == 9000
    assert roomy(ColumnType(Kind.INTEGER, digits=9)).digits == 10
    assert roomy(ColumnType(Kind.DECIMAL, digits=38, scale=2)).digits == 38
    assert roomy(ColumnType(Kind.DATE, 8, pattern="9.9.9999")).length == 10
    assert roomy(ColumnType(Kind.EMPTY)).length == 50


@pytest.mark.parametrize(
    ("texts", "kind", "stored"),
    [
        (["2024-05-01 09:30:00", "2024-05-02 23:59:59"], Kind.MOMENT, True),
        (["2024-05-01 09:30:00", "2024-05-02 23:59"], Kind.MOMENT, False),
        (["2024-05-01T09:30:00"], Kind.MOMENT, False),
        (["2024-05-01 09:30:00.5"], Kind.MOMENT, False),
        (["09:30:00", "23:59:59"], Kind.TIME, True),
        (["09:30:00", "24:00:00"], Kind.TIME, False),
        (["9:30:00"], Kind.TIME, False),
        (["09:30"], Kind.TIME, False),
        (["2024-05-01"], Kind.DATE, True),
        (["01.05.2024"], Kind.DATE, False),
    ],
)
def test_days_and_times_are_stored_as_such_where_databases_give_them_back_alike(texts, kind, stored):
    found = column_type(Column.from_texts("a", texts))
    assert (found.kind, found.stored) == (kind, stored)
    assert [misfit(found, text) for text in texts] == [None] * len(texts)
    if stored and kind is not Kind.DATE:
        assert misfit(found, texts[0][:-3]) is not None


@pytest.mark.parametrize(
    "told", ["money", "text", "text(0)", "decimal(3)", "decimal(4,5)", "decimal(60,2)", "date(3)"]
)
def test_what_is_no_type_is_refused(told):
    with pytest.raises(InputError, match="is no type"):
        said_type(told)


def test_a_type_that_the_ledger_says_is_refused_with_its_line(deliveries):
    wish = Arrangement("type", ("lids",), type="money", place="deliveries.ledger.toml, line 3")
    wishes = deliveries.ledger.wishes.with_arrangements((wish,))
    with pytest.raises(InputError, match=r"ledger\.toml, line 3: money is no type") as refused:
        _ = deliveries.with_ledger(replace(deliveries.ledger, wishes=wishes)).design
    assert "decimal(8,2)" in refused.value.hint


@pytest.fixture
def deliveries(tmp_path):
    path = tmp_path / "deliveries.csv"
    rows = [f"{n},K-{n % 7},Ada {n % 7},{n % 30}.5,{n % 30 + 2}.5,{n * 7 % 50}" for n in range(1, 121)]
    path.write_text("\n".join(["delivery_no,keeper_no,keeper,net_kg,gross_kg,lids", *rows]))
    return Analysis(str(path))


def designed_with(analysis, *wishes):
    arrangements = tuple(Arrangement("type", (name,), type=told) for name, told in wishes)
    ledger = replace(analysis.ledger, wishes=analysis.ledger.wishes.with_arrangements(arrangements))
    design = analysis.with_ledger(ledger).design
    return {(table.name, one.name): str(one.type) for table in design.tables for one in table.columns}


def test_a_said_type_holds_where_the_column_stands_and_where_it_is_referred_from(deliveries):
    found = designed_with(deliveries, ("keeper_no", "text(12)"), ("lids", "decimal(8,2)"))
    assert found["keeper", "keeper_no"] == found["delivery", "keeper_no"] == "text(12)"
    assert found["delivery", "lids"] == "decimal(8,2)"
    assert designed_with(deliveries, ("lids", "text(9)"))["delivery", "lids"] == "text(9)"


@pytest.mark.parametrize(
    ("column", "told", "why"),
    [
        ("net_kg", "integer", "net_kg is 1.5 in row 2, which does not fit integer: it is written otherwise"),
        ("keeper", "text(3)", "keeper is Ada 1 in row 2, which does not fit text(3): it is longer"),
        ("lids", "decimal(2,1)", "it has more digits"),
        ("keeper", "date", "it is written otherwise"),
    ],
)
def test_a_type_that_a_cell_does_not_fit_is_refused(column, told, why, deliveries):
    with pytest.raises(InputError) as refused:
        designed_with(deliveries, (column, told))
    assert why in str(refused.value)
