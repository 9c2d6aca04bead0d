"""Files that are landed in an embedded database: rows that cannot be read, its memory, how long it takes."""

import re

import pytest
from large import NAMES, csv_text, deliveries

from pravix.engines import landing
from pravix.engines import place as place_module
from pravix.engines.landed import LandedPlace, _Landed
from pravix.engines.staying import read_anywhere
from pravix.errors import InputError
from pravix.sources.reading import Reading
from pravix.temporary import temporary_folder

ALWAYS = 1 << 20
"""Memory in which nothing fits."""

WRONG = {
    "ragged": (b"D-1,2026-01-01\n", "row 120002 has 2 fields where the header has 3"),
    "wide": (b"D-1,depot,kg 3,4\n", "row 120002 has 4 fields where the header has 3"),
    "quoted": (b'D-1,"North" depot,kg 3\n', "row 120002 has a quote that is never closed"),
    "western": (b"D-1,M\xfchle,kg 3\n", "row 120002 is not in UTF-8"),
}


@pytest.mark.parametrize("wrong", WRONG)
def test_a_row_that_cannot_be_read_is_named_wherever_it_stands(wrong, tmp_path):
    line, told = WRONG[wrong]
    rows = b"".join(b"D-%06d,depot %d,kg %d\n" % (n, n % 7, n % 13) for n in range(120_000))
    path = tmp_path / "flat.csv"
    path.write_bytes(b"delivery,depot,weight\n" + rows + line + rows)
    with pytest.raises(InputError) as refused:
        read_anywhere(str(path), Reading(memory=ALWAYS))
    assert str(refused.value).startswith(f"flat.csv: {told}")
    assert refused.value.hint


def test_columns_of_which_the_first_rows_mislead_are_counted_in_all(tmp_path, monkeypatch):
    text = csv_text(deliveries(3_000))
    path = tmp_path / "flat.csv"
    path.write_text(text, encoding="utf-8")
    listed, real = [], landing._list

    def list_once_too_many(place, file, columns, few):
        listed.append([one.name for one in few])
        if len(listed) == 1:
            place.run("SELECT list(DISTINCT i) FROM nowhere")
        real(place, file, columns, few)

    monkeypatch.setattr(landing, "_list", list_once_too_many)
    found = read_anywhere(str(path), Reading(memory=ALWAYS))
    assert len(listed) == 2
    assert found.flat.row_count == 3_000
    found.flat.place.close()


def test_a_statement_that_wants_more_memory_gets_up_to_half_and_one_that_fails_ends_no_other():
    place = LandedPlace("flat.csv", temporary_folder(), 2 << 30)
    texts = "SELECT len(list(DISTINCT repeat('x', 1000) || i)) FROM range({}) t(i)"
    given = "SELECT value FROM duckdb_settings() WHERE name = 'memory_limit'"
    try:
        place.run("CREATE TABLE kept AS SELECT 7 AS kg")
        ((before,),) = place.run(given)
        assert place.run(texts.format(400_000)) == [(400_000,)]
        ((after,),) = place.run(given)
        assert (before, after) == ("256.0 MiB", "1.0 GiB")
        with pytest.raises(InputError, match="Out of Memory"):
            place.run(texts.format(3_000_000))
        assert place.run("SELECT kg FROM kept") == [(7,)]
    finally:
        place.close()


def test_what_cannot_be_read_outside_memory_is_told(tmp_path):
    path = tmp_path / "titled.csv"
    path.write_text("Deliveries of 2026\n\n" + csv_text(deliveries(2_000)), encoding="utf-8")
    with pytest.raises(InputError, match="needs to be read with care, and does not fit into memory"):
        read_anywhere(str(path), Reading(memory=ALWAYS))
    with pytest.raises(InputError, match="holds no Parquet files"):
        read_anywhere(str(tmp_path), Reading(memory=ALWAYS))


def test_what_is_only_seen_at_the_end_or_by_hand_is_not_passed_over(tmp_path):
    path = tmp_path / "summed.csv"
    total = "Total" + "," * (len(NAMES) - 2) + "123456.7,"
    path.write_text(csv_text(deliveries(6_000)) + total + "\n", encoding="utf-8")
    with pytest.raises(InputError, match="needs to be read with care"):
        read_anywhere(str(path), Reading(memory=ALWAYS))
    plainly = tmp_path / "plain.csv"
    plainly.write_text(csv_text(deliveries(6_000)), encoding="utf-8")
    with pytest.raises(InputError, match="a patch is applied there only"):
        read_anywhere(str(plainly), Reading(memory=ALWAYS, patch="patch.csv"))


def test_what_takes_long_is_told_with_the_time_that_is_left(tmp_path, monkeypatch):
    path = tmp_path / "flat.csv"
    path.write_text(csv_text(deliveries(3_000)), encoding="utf-8")
    told = []
    read_anywhere(str(path), Reading(memory=1), lambda doing, done: told.append(doing)).flat.place.close()
    assert told[0] == "looking through flat.csv"
    assert told[-1] == "putting flat.csv into a database for a while"
    monkeypatch.setattr(place_module, "_WAIT", 0.0001)
    monkeypatch.setattr(_Landed, "done", lambda self: 25.0)
    told.clear()
    read_anywhere(str(path), Reading(memory=1), lambda doing, done: told.append(doing)).flat.place.close()
    assert any(re.fullmatch(r"looking through flat.csv: 25 %, about \d+ s left", one) for one in told)
