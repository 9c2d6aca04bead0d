"""Rules and keys found by asking an engine, against those of all rows in memory, on random tables."""

import os
from contextlib import nullcontext
from functools import partial
from random import Random

import pyarrow
import pytest
from flat_tables import ALL_ENGINES, ENGINES, database_of, executed, put, put_all
from pyarrow import parquet
from samples import holds, subsets
from sqlalchemy import create_engine

from pravix.discovery import asking
from pravix.discovery.asking import Asked
from pravix.discovery.refuting import Refuting
from pravix.discovery.search import discover
from pravix.engines import flat as flat_module
from pravix.engines.flat import Flat
from pravix.engines.landed import LandedPlace
from pravix.engines.landing import landed
from pravix.engines.landing_files import parquet_file
from pravix.engines.sample import Sample
from pravix.engines.tables import flat_table
from pravix.relation.relation import Relation
from pravix.sources.cells import plain
from pravix.sources.reading import Reading
from pravix.theory.dependency import Dependency

TABLES = int(os.environ.get("PRAVIX_TEST_TABLES", "60"))
"""So many random tables go through an engine, fewer through those that are slow with small ones."""

SHARES = {"mariadb": 4, "spark": 30}
TEXTS = ["a", "A", "á", "a ", "1", "1.0", "", None, "b", "01", " \u00a0b"]


def random_rows(random):
    """Few values, so that rules are common: blanks, cases, accents, spaces, numbers in several forms."""
    width = random.randint(1, 6)
    pools = [random.sample(TEXTS, random.randint(1, len(TEXTS))) for _ in range(width)]
    rows = [tuple(random.choice(pool) for pool in pools) for _ in range(random.randint(1, 60))]
    if random.random() < 0.4:
        rows = [(*row[:-1], str(number)) for number, row in enumerate(rows)]
    return [f"c {place}" for place in range(width)], rows


def as_read(names, rows, keep_spaces=True):
    """Return rows as they are in memory."""
    return plain(Relation.from_rows(names, [[cell or "" for cell in row] for row in rows]), "t", keep_spaces)[
        0
    ]


def discovered(rows):
    """Return the rules and keys of a sample as it stands."""
    return discover(rows.begun())


def asked(flat, keep_spaces, random, settling):
    """Return the rules and keys that asking all rows gives, from a small sample."""
    try:
        sample = Sample(flat, lambda rows: plain(rows, "t", keep_spaces)[0], random.choice([2, 5, 20]))
        rows = Asked(sample, flat, lambda relation: relation, settling)
        found = Refuting(rows, flat.names, flat.rules).completed(partial(discovered, rows))
        return set(found.dependencies), set(found.keys)
    finally:
        flat.place.close()


def held_open(url):
    """Hold a database of DuckDB open meanwhile: to open one of so many tables anew takes it its time."""
    return create_engine(url).connect() if url.startswith("duckdb") else nullcontext()


@pytest.mark.parametrize("engine", ALL_ENGINES)
def test_random_tables_have_the_rules_and_keys_of_all_rows(engine, tmp_path, monkeypatch):
    monkeypatch.setattr(asking, "SETTLING", 5)
    monkeypatch.setattr(flat_module, "SETTLING", 5)
    monkeypatch.setattr(flat_module, "_SLICE", 6)
    randoms = list(map(Random, range(TABLES // SHARES.get(engine, 1))))
    made = {f"rows {seed}": random_rows(random) for seed, random in enumerate(randoms)}
    with database_of(engine, tmp_path) as url, held_open(url):
        tables = zip(randoms, put_all(url, made), made.values(), strict=True)
        for seed, (random, table, (names, rows)) in enumerate(tables):
            reading = Reading(table=table, keep_spaces=random.random() < 0.5)
            relation = as_read(names, rows, reading.keep_spaces)
            wanted = discover(relation)
            found = asked(flat_table(url, reading), reading.keep_spaces, random, random.random() < 0.5)
            assert found == (set(wanted.dependencies), set(wanted.keys)), seed


def test_random_files_that_are_landed_have_the_rules_and_keys_of_all_rows(tmp_path, monkeypatch):
    monkeypatch.setattr(asking, "SETTLING", 5)
    monkeypatch.setattr(flat_module, "SETTLING", 5)
    monkeypatch.setattr(flat_module, "_SLICE", 6)
    apart, real = [], LandedPlace.kept
    monkeypatch.setattr(LandedPlace, "kept", lambda place, rows: apart.append(real(place, rows)) or apart[-1])
    for seed in range(TABLES // 2):
        random = Random(seed)
        names, rows = random_rows(random)
        path = tmp_path / "flat.parquet"
        cells = {name: [row[n] for row in rows] for n, name in enumerate(names)}
        parquet.write_table(
            pyarrow.table(cells, pyarrow.schema([(name, pyarrow.string()) for name in names])), path
        )
        wanted = discover(as_read(names, rows))
        flat, _ = landed(parquet_file(str(path)), 1 << 30, Reading(keep_spaces=True))
        assert asked(flat, True, random, random.random() < 0.5) == (
            set(wanted.dependencies),
            set(wanted.keys),
        ), seed
    assert len(apart) > TABLES // 3


def test_the_rules_are_those_of_the_definition(tmp_path):
    with database_of("sqlite", tmp_path) as url:
        for seed in range(1000, 1020):
            names, rows = random_rows(Random(seed))
            names, rows = names[:4], [row[:4] for row in rows]
            put(url, names, rows)
            relation = as_read(names, rows)
            flat = flat_table(url, Reading(table="flat rows", keep_spaces=True))
            found, _ = asked(flat, True, Random(seed), True)
            true = {
                Dependency(columns, name)
                for columns in subsets(names)
                for name in set(names) - columns
                if holds(relation, Dependency(columns, name))
            }
            minimal = {
                rule
                for rule in true
                if not any(
                    other.determinant < rule.determinant
                    for other in true
                    if other.dependent == rule.dependent
                )
            }
            assert found == minimal, seed


def test_combinations_are_counted_without_the_columns_that_others_determine(tmp_path):
    with database_of("sqlite", tmp_path) as url:
        for seed in range(2000, 2040):
            random = Random(seed)
            names, rows = random_rows(random)
            names, rows = names[:4], [row[:4] for row in rows]
            put(url, names, rows)
            relation = as_read(names, rows)
            flat = flat_table(url, Reading(table="flat rows", keep_spaces=True))
            searched = Asked(Sample(flat, lambda one: plain(one, "t", True)[0], 20), flat, lambda one: one)
            Refuting(searched, flat.names, flat.rules).completed(partial(discovered, searched))
            records = [dict(zip(names, row, strict=True)) for row in relation.rows()]
            for columns in subsets(names):
                filled = [name for name in names if random.random() < 0.3]
                there = [row for row in records if all(row[name] for name in filled)]
                different = {tuple(row[name] for name in sorted(columns)) for row in there}
                assert flat.size(columns, filled) == len(different), (seed, columns, filled)
            flat.place.close()


def test_what_a_known_rule_tells_of_a_combination_is_not_asked(tmp_path):
    with database_of("sqlite", tmp_path) as url:
        put(url, ["code", "honey", "kg"], [(f"H{n % 3}", f"honey {n % 3}", str(n % 7)) for n in range(40)])
        flat = flat_table(url, Reading(table="flat rows"))
        flat.rules.add(Dependency(frozenset({"code"}), "honey"))
        assert flat.size({"code", "kg"}) == 21
        before = flat.place.statements
        assert flat.size({"code", "honey", "kg"}) == 21
        assert flat.place.statements == before
        assert flat.size({"honey", "kg"}) == 21
        assert flat.place.statements == before + 1
        flat.place.close()


@pytest.mark.parametrize(("twice", "wanted"), [(0, [20, 4, 1]), (600, [20]), (40, [20, 4])])
def test_ever_larger_parts_of_the_rows_are_asked_where_nearly_all_differ(
    twice, wanted, tmp_path, monkeypatch
):
    monkeypatch.setattr(flat_module, "_SLICE", 100)
    rows = [(f"depot {n % 400}", f"day {n // 400}", str(n)) for n in range(2_000 - twice)]
    rows += [(depot, day, f"again {number}") for depot, day, number in rows[:twice]]
    parts, real = [], Flat.breaking

    def breaking(flat, determinant, dependents, some=1, *more):
        parts.append(some)
        return real(flat, determinant, dependents, some, *more)

    monkeypatch.setattr(Flat, "breaking", breaking)
    with database_of("duckdb", tmp_path) as url:
        put(url, ["depot", "day", "number"], rows)
        flat = flat_table(url, Reading(table="flat rows"))
        assert flat.size({"depot"}) == 400
        asked_here = Asked(Sample(flat, lambda one: one, 100), flat, lambda one: one, settling=False)
        outcome = asked_here.broken({"depot", "day"}, [], as_key=True)
        flat.place.close()
    assert outcome.shared is bool(twice)
    assert parts == wanted


@pytest.mark.parametrize("engine", ENGINES)
def test_numbers_dates_and_truths_are_told_as_texts(engine, tmp_path):
    with database_of(engine, tmp_path) as url:
        put(url, ["a"], [("x",)])
        mark = "`" if engine == "mariadb" else '"'
        name = f"{mark}typed{mark}"
        executed(
            url,
            (f"CREATE TABLE {name} (n INTEGER, kg NUMERIC(6, 2), d DATE, ok BOOLEAN, f DOUBLE PRECISION)",),
            (f"INSERT INTO {name} VALUES (1, 1.50, '2026-01-02', TRUE, 1.5)",),
            (f"INSERT INTO {name} VALUES (1, 1.5, '2026-01-02', FALSE, NULL)",),
            (f"INSERT INTO {name} VALUES (2, NULL, NULL, NULL, 1e20)",),
        )
        flat = flat_table(url, Reading(table="typed"))
        try:
            assert [flat.size([column]) for column in flat.names] == [2, 2, 2, 3, 3]
            assert flat.size(["kg"], ["kg"]) == 1
            rows = set(zip(*flat.texts(list(flat.sample(10))), strict=True))
            assert {row[:3] for row in rows} == {("1", "1.50", "2026-01-02"), ("2", "", "")}
        finally:
            flat.place.close()
