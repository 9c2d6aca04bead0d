"""A first draft of tables from sentences."""

import pytest

from pravix.design.by_hand import parsed_design
from pravix.design.critique import objections
from pravix.design.from_sentences import drafted
from pravix.errors import InputError

SENTENCES = """
A keeper has a number, a name, perhaps a phone and a village.   # whom we pay
Each village lies in a district.
A drum has a number, a tare and a honey. Every honey has a code and a price.
A drum is filled at one apiary that is near.
An apiary belongs to a keeper. An apiary may have a nickname.
A delivery has a number, a date and a driver.
A delivery carries several drums.
A drum is brought by several deliveries.
The office wants to see everything. Honey is sweet.
"""


def design(text):
    return {table.name: table for table in parsed_design(drafted(text), "draft.txt")}


def test_what_sentences_are_about_becomes_tables_and_what_they_have_columns():
    tables = design(SENTENCES)
    assert list(tables) == ["keeper", "village", "drum", "honey", "apiary", "delivery", "delivery_drum"]
    assert tables["keeper"].names == ("keeper_number", "name", "phone", "village_no")
    assert [column.name for column in tables["keeper"].columns if column.nullable] == ["phone"]
    assert tables["honey"].primary_key == ("honey_code",)
    assert [column.name for column in tables["apiary"].columns if column.nullable] == ["nickname"]
    links = {(one.name, link.table) for one in tables.values() for link in one.references}
    assert links == {
        ("keeper", "village"), ("drum", "honey"), ("drum", "apiary"), ("apiary", "keeper"),
        ("delivery_drum", "delivery"), ("delivery_drum", "drum"),
    }  # fmt: skip
    assert tables["delivery_drum"].primary_key == ("delivery_number", "drum_number")


def test_what_is_open_is_asked_beside_the_line():
    draft = drafted(SENTENCES)
    assert (
        "    # What tells one village from another? No sentence says; village_no is a number given out."
        in draft
    )
    assert "    # What is told of delivery and drum together, as how many or when, belongs here." in draft
    one_way = drafted("A keeper has many hives.\nA hive has a number.")
    assert "hive(_hive_number_, keeper_no)" in one_way
    assert "    # May one hive belong to several of keeper? Then both need a table between them." in one_way


def test_a_draft_is_sound():
    assert [one for one in objections(list(design(SENTENCES).values()), ()) if "link" in one.about] == []


@pytest.mark.parametrize("text", ["", "Honey!", "The office wants to see everything."])
def test_nothing_to_draft_is_told(text):
    with pytest.raises(InputError, match="no sentence says what something has"):
        drafted(text)


def test_the_command_writes_a_draft_and_leaves_what_is_there(pravix, tmp_path):
    (tmp_path / "needs.txt").write_text(SENTENCES)
    run = pravix("review", "--sentences", "needs.txt", "--draft", "draft.txt")
    assert run.out == "Written: draft.txt, 7 tables. Edit it, then: pravix review draft.txt\n"
    assert pravix("review", "draft.txt").status == 0
    run = pravix("review", "--sentences", "needs.txt", "--draft", "draft.txt")
    assert (run.status, run.out) == (2, "")
    assert "draft.txt is there already" in run.err
    assert pravix("review", "--draft", "other.txt").status == 2
    assert pravix("review").status == 2


def test_from_sentences_to_sql(pravix, tmp_path):
    (tmp_path / "needs.txt").write_text(SENTENCES)
    (tmp_path / "rows.csv").write_text("keeper_number,name,price\nK-01,Ada Moss,7.50\nK-02,Bo Lund,12.25\n")
    assert pravix("review", "--sentences", "needs.txt", "--draft", "draft.txt").status == 0
    done = pravix("review", "draft.txt", "--data", "rows.csv", "--sql", "made.sql", "--for", "postgresql")
    assert "Written: made.sql" in done.out
    told = (tmp_path / "made.sql").read_text()
    assert '"keeper_number" VARCHAR(4) NOT NULL' in told
    assert '"price" NUMERIC(6, 2) NOT NULL' in told
    assert told.count("CREATE TABLE") == 7
