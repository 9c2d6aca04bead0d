"""Tables made and filled where the flat table is, on every database; with what goes wrong."""

import os
import shutil
import subprocess
from dataclasses import replace
from functools import cache
from random import Random

import pytest
from flat_tables import ALL_ENGINES, ENGINES, database_of, executed, put, spark_statements
from sqlalchemy.engine import make_url
from whole_designs import _wanted
from whole_sheets import sheet

from pravix.analysis import Analysis
from pravix.databases.known import database
from pravix.errors import InputError
from pravix.first_normal_form.findings import findings
from pravix.folder.reader import open_folder
from pravix.folder.writer import write_design
from pravix.loading.in_place import load_in_place, script_in_place
from pravix.proof.in_place import prove_in_place
from pravix.sources.reading import Reading
from pravix.sql.schema import script

FLAT = Reading(table="the flat one")
POLICIES = [
    {},
    {"surrogates": "always"},
    {"surrogates": "always", "numbering": "shared"},
    {"surrogates": "referred"},
]


@pytest.fixture(scope="module")
def made_sheet(tmp_path_factory):
    """Decompose a sheet with lists, families, roles and formulas, once; return its folder and its rows."""
    folder = tmp_path_factory.mktemp("sheets")

    @cache
    def made_of(seed):
        path = folder / f"jobs{seed}.csv"
        path.write_text(sheet(seed).text, encoding="utf-8")
        made = Analysis(str(path), policies=Random(seed).choice(POLICIES))
        answers = _wanted(findings(made.source.relation, topics=("list", "family", "computed")))
        made = made.with_ledger(replace(made.ledger, answers=tuple(answers.values())))
        write_design(made.design, str(folder / f"out{seed}"))
        return open_folder(folder / f"out{seed}"), made.source.relation

    return made_of


def flat_put(url, relation, changed=None):
    """Put the rows of a sheet into a database, some cells of the first one changed; return how they are
    read from there.
    """
    rows = [[cell or None for cell in row] for row in relation.rows()]
    for name, cell in (changed or {}).items():
        rows[0][relation.names.index(name)] = cell
    return Reading(table=put(url, relation.names, rows, "the flat one"))


def tables_of(url):
    if url.startswith("sc:"):
        return {name for _, name, *_ in executed(url, ("SHOW TABLES",))}
    told = {
        "sqlite": "SELECT name FROM sqlite_master WHERE type IN ('table', 'view')",
        "duckdb": "SELECT table_name FROM information_schema.tables",
        "postgresql": "SELECT table_name FROM information_schema.tables WHERE table_schema = 'public'",
        "mariadb": "SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE()",
    }
    return {name for (name,) in executed(url, (told[make_url(url).get_backend_name()],))}


EACH_POLICY = (4008, 4003, 4017, 4000)
SEEDS = {"sqlite": sorted({*range(4001, 4008), *EACH_POLICY}), "spark": (4059,)}


@pytest.mark.parametrize("engine", ALL_ENGINES)
def test_whole_designs_are_filled_and_proved_where_the_flat_table_is(engine, tmp_path, made_sheet):
    for seed in SEEDS.get(engine, EACH_POLICY):
        folder, relation = made_sheet(seed)
        folder = folder.fitted(database(engine))
        with database_of(engine, tmp_path) as url:
            reading = flat_put(url, relation)
            loaded = load_in_place(folder, url, reading)
            assert loaded.rows == {table.name: table.rows for table in folder.tables}, seed
            (view,) = loaded.views
            assert loaded.views[view] == relation.row_count
            assert all(holds for holds, _ in prove_in_place(folder, url, reading))
            if engine != "spark":  # Which takes its time; what it replaces is seen in test_faults.
                before = tables_of(url)
                load_in_place(folder, url, reading, instead=True)
                assert tables_of(url) == before
        if engine in ("sqlite", "duckdb"):
            (tmp_path / f"flat.{engine}").unlink()


@pytest.mark.parametrize("engine", ALL_ENGINES)
def test_a_flat_table_that_changed_leaves_nothing_behind(engine, tmp_path, made_sheet):
    folder, relation = made_sheet(4000)
    with database_of(engine, tmp_path) as url:
        hive = next(name for name in relation.names if "hive" in name.lower())
        _, *others = dict.fromkeys(relation.column(hive).texts())
        reading = flat_put(url, relation, {hive: others[0]})
        before = tables_of(url)
        with pytest.raises(InputError, match=r"it is not so that|could not be loaded|gives"):
            load_in_place(folder, url, reading)
        assert tables_of(url) == before


def test_the_flat_table_must_be_there_and_have_the_columns(tmp_path, made_sheet):
    folder, relation = made_sheet(4001)
    with database_of("sqlite", tmp_path) as url:
        put(url, ["a"], [("1",)], "the flat one")
        with pytest.raises(InputError, match="the flat table lacks"):
            load_in_place(folder, url, FLAT)
        with pytest.raises(InputError, match="has no table nowhere"):
            load_in_place(folder, url, Reading(table="nowhere"))
        flat_put(url, relation)
        executed(url, (f'ALTER TABLE "the flat one" RENAME TO "{folder.tables[0].name}"',))
        with pytest.raises(InputError, match="which is the name of the flat table"):
            load_in_place(folder, url, Reading(table=folder.tables[0].name))


@pytest.mark.parametrize("engine", ENGINES)
def test_a_number_that_a_column_would_round_is_not_loaded(engine, tmp_path):
    rows = [(f"D-{n}", f"K-{n % 9}", f"Ada {n % 9}", f"{n % 13}.5{n % 7}") for n in range(300)]
    path = tmp_path / "rounded.csv"
    names = ["drum_no", "keeper_no", "keeper", "kg"]
    path.write_text("\n".join(map(",".join, [names, *rows])), encoding="utf-8")
    write_design(Analysis(str(path)).design, str(tmp_path / "out"))
    with database_of(engine, tmp_path) as url:
        put(url, names, [*rows[:-1], (*rows[-1][:3], "4.505")], "the flat one")
        before = tables_of(url)
        if engine == "sqlite":  # It keeps what it gets: nothing is rounded, and the rows come back.
            assert load_in_place(open_folder(tmp_path / "out"), url, FLAT).views == {"flat": 300}
            return
        with pytest.raises(InputError, match=r"of which 299 are those|could not be loaded"):
            load_in_place(open_folder(tmp_path / "out"), url, FLAT)
        assert tables_of(url) == before


@pytest.mark.parametrize("engine", ALL_ENGINES)
def test_rows_that_nothing_identifies_are_numbered_alike_in_every_table(engine, tmp_path):
    chance, plants = Random(3), ["Lime", "Heather", "Clover", "Acacia", "Borage", "Thyme"]
    lists = ["; ".join(chance.sample(plants, chance.randint(1, 4))) for _ in range(60)]
    rows = [(f"K-{n % 9}", f"Ada {n % 9}", lists[n % 50], f"{n % 3}.5") for n in range(450)] * 2
    names = ["keeper_no", "keeper", "seen", "kg"]
    path = tmp_path / "drums.csv"
    path.write_text("\n".join(map(",".join, [names, *rows])), encoding="utf-8")
    made = Analysis(str(path))
    answers = _wanted(findings(made.source.relation, topics=("list",)))
    made = made.with_ledger(replace(made.ledger, answers=tuple(answers.values())))
    write_design(made.design, str(tmp_path / "out"))
    folder = open_folder(tmp_path / "out").fitted(database(engine))
    assert any(table.part_of or table.repairs for table in folder.tables)
    assert folder.design.row_key.columns == ("row_no",)
    with database_of(engine, tmp_path) as url:
        reading = flat_put(url, made.source.relation)
        loaded = load_in_place(folder, url, reading)
        assert loaded.rows == {table.name: table.rows for table in folder.tables}
        assert all(holds for holds, _ in prove_in_place(folder, url, reading))


@pytest.mark.parametrize("engine", ALL_ENGINES)
def test_two_independent_lists_are_filled_each_into_its_table(engine, tmp_path):
    chance, plants, tools = Random(1), ["Lime", "Heather", "Clover", "Acacia"], ["veil", "brush", "knife"]
    rows = [
        (f"H-{n:02d}", plant, tool, f"Ada {n % 7}")
        for n in range(40)
        for plant in chance.sample(plants, chance.randint(1, 4))
        for tool in tools[: n % 3 + 1]
    ]
    names = ["hive_no", "plant", "tool", "keeper"]
    path = tmp_path / "hives.csv"
    path.write_text("\n".join(map(",".join, [names, *rows])), encoding="utf-8")
    made = Analysis(str(path), policies={"until": "4nf"})
    write_design(made.design, str(tmp_path / "out"))
    folder = open_folder(tmp_path / "out").fitted(database(engine))
    assert any(table.independent_of for table in folder.tables)
    with database_of(engine, tmp_path) as url:
        reading = flat_put(url, made.source.relation)
        loaded = load_in_place(folder, url, reading)
        assert loaded.rows == {table.name: table.rows for table in folder.tables}
        assert all(holds for holds, _ in prove_in_place(folder, url, reading))


def test_a_flat_table_called_as_the_view_is_told(tmp_path, made_sheet):
    folder, relation = made_sheet(4001)
    with database_of("sqlite", tmp_path) as url:
        put(url, relation.names, [[cell or None for cell in row] for row in relation.rows()], "flat")
        with pytest.raises(InputError, match="the view of the flat rows is called flat"):
            load_in_place(folder, url, Reading(table="flat"), instead=True)
        assert executed(url, ("SELECT COUNT(*) FROM flat",)) == [(relation.row_count,)]


def test_a_folder_without_rows_says_where_they_are(tmp_path):
    path = tmp_path / "jobs.csv"
    lines = [f"D-{n:05d},K-{n * 7 % 90:03d},Ada Moss {n * 7 % 90},{n % 13}.5" for n in range(3_000)]
    path.write_text("\n".join(["drum_no,keeper_no,keeper,kg", *lines, ""]), encoding="utf-8")
    made = Analysis(str(path), Reading(memory=1))
    write_design(made.design, str(tmp_path / "out"), elsewhere=made.elsewhere)
    made.source.flat.place.close()
    folder = open_folder(tmp_path / "out")
    assert sorted(one.name for one in (tmp_path / "out").iterdir()) == [
        "README.md",
        "design.json",
        "schema.sql",
    ]
    with pytest.raises(InputError, match=r"holds no rows: they are in jobs\.csv"):
        list(folder.rows(folder.tables[0]))
    with database_of("sqlite", tmp_path) as url:
        flat_put(url, Analysis(str(path)).source.relation)
        assert load_in_place(folder, url, FLAT).rows == {table.name: table.rows for table in folder.tables}


CLIENTS = {
    "sqlite": lambda url: ["sqlite3", "-bail", url.database],
    "postgresql": lambda url: [
        *("psql", "-qAt", "-v", "ON_ERROR_STOP=1", "-h", url.host, "-p", str(url.port)),
        *("-U", url.username, url.database),
    ],
    "mariadb": lambda url: [
        *("mariadb", "-N", "-h", url.host, "-P", str(url.port), f"-u{url.username}", f"-p{url.password}"),
        url.database,
    ],
}


@pytest.mark.parametrize("engine", ENGINES)
def test_a_script_does_the_same_when_it_is_run_by_hand(engine, tmp_path, made_sheet):
    for seed in range(4010, 4014):
        folder, relation = made_sheet(seed)
        kind = database(engine)
        lines = "".join(script(script_in_place(folder, kind, Reading(table="the flat one")), kind))
        with database_of(engine, tmp_path) as url:
            flat_put(url, relation)
            if engine == "duckdb":
                import duckdb

                with duckdb.connect(make_url(url).database) as connection:
                    counts = "|".join(map(str, connection.execute(lines).fetchone()))
            else:
                counts = carried_out(CLIENTS[engine](make_url(url)), lines)
            assert counts in (f"{relation.row_count}|{relation.row_count}", f"{relation.row_count}|0"), seed
        if engine in ("sqlite", "duckdb"):
            (tmp_path / f"flat.{engine}").unlink()


def carried_out(command, lines, **options):
    """Have a client carry out a script; return its last line, with bars between the cells."""
    if shutil.which(command[0]) is None:
        pytest.skip(f"{command[0]} is not installed")
    done = subprocess.run(command, input=lines, capture_output=True, text=True, check=False, **options)
    assert done.returncode == 0, done.stderr
    return done.stdout.strip().splitlines()[-1].replace("\t", "|")


def test_a_script_is_carried_out_by_the_client_of_spark(tmp_path, made_sheet):
    client = os.environ.get("PRAVIX_TEST_SPARK_SQL")
    if client is None:
        pytest.skip("no client of Spark: set PRAVIX_TEST_SPARK_SQL to the path of spark-sql")
    folder, relation = made_sheet(4047)
    kind = database("spark")
    flat = spark_statements(relation.names, [[cell or None for cell in row] for row in relation.rows()], "t")
    lines = "".join(script([*flat, *script_in_place(folder, kind, Reading(table="t"))], kind))
    (tmp_path / "fill.sql").write_text(lines, encoding="utf-8")
    settings = {"catalogImplementation": "in-memory", "warehouse.dir": f"{tmp_path}/warehouse"}
    settings |= {"shuffle.partitions": "1", "adaptive.enabled": "false"}
    told = [part for name, value in settings.items() for part in ("--conf", f"spark.sql.{name}={value}")]
    command = [
        client,
        "--master",
        "local[1]",
        "--driver-java-options",
        "-XX:TieredStopAtLevel=1 -XX:+UseSerialGC",
        *told,
        "-f",
        str(tmp_path / "fill.sql"),
    ]
    assert carried_out(command, "", cwd=tmp_path) == f"{relation.row_count}|{relation.row_count}"
