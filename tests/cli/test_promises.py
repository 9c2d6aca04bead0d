"""Promises kept when several run at once, when it is stopped, when nobody reads, and when cells want to be obeyed."""

import csv
import json
import os
import shutil
import subprocess
import time
import tomllib
from pathlib import Path

import faults
import pytest
from databases import MARIADB, POSTGRES, new_database, sqlite_at
from program import PROGRAM
from sqlalchemy.engine import make_url

import pravix.demo

DEMO = Path(pravix.demo.__file__).parent
ENVIRONMENT = {name: value for name, value in os.environ.items() if name != "COLUMNS"}


def started(tmp_path, *arguments, **more):
    return subprocess.Popen(
        [str(PROGRAM), *map(str, arguments)],
        cwd=tmp_path, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, encoding="utf-8",
        env=ENVIRONMENT | {"PYTHONUTF8": "1"}, **more,
    )  # fmt: skip


@pytest.fixture
def made(pravix, sheet, tmp_path):
    assert pravix("decompose", sheet, "--out", "made").status == 0
    return tmp_path / "made"


def test_no_decision_is_lost_where_many_decide_at_once(pravix, sheet, tmp_path):
    shared = tmp_path / "shared" / "ledger.toml"
    shared.parent.mkdir()
    shared.write_text("# ours\n", encoding="utf-8")
    shared.chmod(0o664)
    (tmp_path / "drums.ledger.toml").symlink_to(shared)
    names = ["line_no", "drum_no", "keeper_no", "keeper", "phone"]
    rules = [f"{a}, {b} -> note" for a in names for b in names if a < b] + [
        "line_no -> keeper",
        "line_no -> phone",
    ]
    runs = [started(tmp_path, "decide", sheet, "--reject", rule, "--json") for rule in rules]
    for run in runs:
        out, err = run.communicate(timeout=120)
        assert run.returncode == 0, out + err
    entries = tomllib.loads(shared.read_text(encoding="utf-8"))["decision"]
    assert sorted(entry["rule"] for entry in entries) == sorted(rules)
    assert shared.read_text(encoding="utf-8").startswith("# ours")
    assert (tmp_path / "drums.ledger.toml").is_symlink()
    assert shared.stat().st_mode & 0o777 == 0o664


def test_a_ledger_that_is_no_file_is_refused(pravix, sheet):
    run = pravix("decide", sheet, "--ledger", "/dev/null", "--reject", "line_no -> keeper")
    assert run.status == 2
    assert "the ledger /dev/null is no file" in run.err
    assert not Path("/dev/null").is_file()


def test_of_two_loads_at_once_into_a_new_file_one_is_told(made, tmp_path):
    runs = [started(tmp_path, "load", "made", "sqlite:///new.db") for _ in range(4)]
    told = [(run.communicate(timeout=120), run.returncode) for run in runs]
    assert sorted(status for _, status in told) == [0, 2, 2, 2]
    for (_, err), status in told:
        assert status == 0 or "made by another run meanwhile" in err or "already" in err
    with sqlite_at(tmp_path / "new.db") as there:
        assert there.execute("SELECT COUNT(*) FROM flat").fetchone() == (48,)
    assert [name for name in os.listdir(tmp_path) if name.startswith(".")] == []


@pytest.fixture(scope="module")
def prepared(tmp_path_factory):
    folder = tmp_path_factory.mktemp("stopped")
    faults.prepared(folder, rows=8_000)
    return folder


@pytest.mark.parametrize("at", range(5))
def test_stopped_at_any_moment_it_leaves_the_whole_or_nothing(prepared, at):
    """At a moment for each signal, spread over its run; benchmarks/faults.py takes more."""
    case = list(faults.file_cases(prepared))[at]
    found = faults.stopped(case, prepared, list(faults.SIGNALS), moments=3)
    assert found.wrong == []
    assert sum(found.found.values()) == 3


@pytest.mark.parametrize("server", [POSTGRES, MARIADB], ids=["postgresql", "mariadb"])
def test_stopped_while_it_replaces_tables_the_old_or_the_new_are_there(prepared, server):
    with new_database(server) as url:
        found = faults.stopped(faults.server_case(prepared, url), prepared, list(faults.SIGNALS), moments=3)
        assert found.wrong == []


def shell(tmp_path, line, **environment):
    return subprocess.run(
        ["bash", "-c", line], cwd=tmp_path,
        env=ENVIRONMENT | {"PATH": f"{PROGRAM.parent}:{ENVIRONMENT['PATH']}"} | environment, capture_output=True, text=True, check=False, timeout=120,
    )  # fmt: skip


@pytest.mark.parametrize(
    ("line", "status", "told"),
    [
        ("set -o pipefail; pravix dependencies drums.csv --all | head -n 1 >/dev/null", 0, ""),
        ("set -o pipefail; pravix survey drums.csv --json | head -c 10 >/dev/null", 0, ""),
        ("pravix survey drums.csv >&-", 0, ""),
        ("pravix prove made >&- 2>&-", 0, ""),
        ("pravix survey drums.csv >/dev/full", 2, "No space left on device"),
        ("pravix keys drums.csv --json >/dev/full", 2, "No space left on device"),
        ("pravix decompose drums.csv --out /proc/x", 2, "cannot be written"),
        ("pravix load made sqlite:////proc/x.db", 2, "cannot be written|could not be loaded"),
        ("mkdir gone && cd gone && rmdir ../gone && pravix survey drums.csv", 2, "folder in which this runs is gone|no file"),
        ("pravix load made postgresql://ida@127.0.0.1:notaport/x", 2, "URL of the database cannot be read"),
        ("env -u HOME pravix decide drums.csv --reject 'line_no -> keeper'", 0, ""),
        ("HOME=/nowhere XDG_CACHE_HOME=/nowhere MPLCONFIGDIR=/proc NUMBA_CACHE_DIR=/proc pravix diagram made d.svg", 0, ""),
        ("printf '%s' \"$(printf '[%.0s' $(seq 5000))\" > l.toml; echo \"a = $(cat l.toml)\" > m.toml; "
         "pravix survey drums.csv --ledger m.toml", 2, "nested too deeply|not a TOML"),
    ],
)  # fmt: skip
def test_what_is_around_it_is_no_fault_of_its_own(line, status, told, made, tmp_path):
    import re

    run = shell(tmp_path, line)
    assert run.returncode == status, run.stderr
    assert "Traceback" not in run.stderr
    assert "fault of Pravix" not in run.stderr
    assert "Exception ignored" not in run.stderr
    assert re.search(told, run.stderr)


@pytest.mark.parametrize(
    "call",
    [
        ("prove", "made"), ("load", "made", "sqlite:///x.db"), ("sql", "made", "--rows"), ("recombine", "made", "keeper"),
        ("diagram", "made", "x.svg"), ("dictionary", "made"), ("workbook", "made", "x.xlsx"), ("report", "made", "x.html"),
        ("check", "made", "drums.csv"),
    ],
    ids=lambda call: call[0],
)  # fmt: skip
def test_every_command_that_takes_a_folder_takes_it_as_data(pravix, made, call, tmp_path):
    (tmp_path / "secret.csv").write_text("under the third hive\n", encoding="utf-8")
    document = json.loads((made / "design.json").read_text(encoding="utf-8"))
    document["tables"][0]["file"] = "../secret.csv"
    (made / "design.json").write_text(json.dumps(document), encoding="utf-8")
    run = pravix(*call)
    assert run.status == 2
    assert "third hive" not in run.out + run.err
    assert len(run.err.strip().splitlines()) <= 2
    assert (tmp_path / "secret.csv").exists()
    assert not any((tmp_path / name).exists() for name in ("x.db", "x.svg", "x.xlsx", "x.html"))
    assert pravix("decompose", "drums.csv", "--out", "made").status == 2
    assert (tmp_path / "secret.csv").exists()


def test_odd_names_of_files_are_no_obstacle(tmp_path):
    """A name of 255 bytes, one that is no UTF-8, and one that looks like a formula."""
    content = b"no,honey\n" + b"".join(b"%d,h%d\n" % (n, n % 3) for n in range(20))
    for name in (b"a" * 251 + b".csv", b"Gr\xfc\xdfe.csv", b"=1+1.csv", b"-x.csv"):
        (tmp_path / os.fsdecode(name)).write_bytes(content)
        for command in (["survey"], ["decompose", "--out", "made"]):
            done = subprocess.run(
                [os.fsencode(PROGRAM), *map(str.encode, command), b"--", name],
                cwd=tmp_path, env=ENVIRONMENT, capture_output=True, check=False,
            )  # fmt: skip
            assert done.returncode == 0, done.stderr
            assert b"fault of Pravix" not in done.stderr


def test_columns_are_obeyed_where_it_is_piped(sheet, tmp_path):
    for width in (60, 140):
        run = shell(tmp_path, f"pravix survey {sheet}", COLUMNS=str(width), PYTHONUTF8="1")
        assert max(map(len, run.stdout.splitlines())) <= width


def test_what_a_terminal_would_obey_is_shown_instead(pravix, tmp_path):
    names = ["line\x1b[2J", "honey\x1b]0;owned\x07", "kind\x9b31m", "\u202ekg"]
    rows = [[str(n), f"h{n % 4}\x1b[31m", f"k{n % 4}\x07", str(n % 9)] for n in range(60)]
    with (tmp_path / "odd.csv").open("w", newline="", encoding="utf-8") as file:
        csv.writer(file).writerows([names, *rows])
    for command in (
        ("survey", "odd.csv"), ("survey", "odd.csv", "--json"), ("keys", "odd.csv"), ("dependencies", "odd.csv"),
        ("decompose", "odd.csv", "--out", "made"), ("decompose", "odd.csv", "--json"), ("arrange", "odd.csv"),
        ("explain", "odd.csv", names[2]), ("decide", "odd.csv", "--json"), ("prove", "made"), ("dictionary", "made"),
        ("recombine", "made", names[1], "--run"), ("check", "made", "odd.csv"), ("survey", "nowhere\x1b[2J.csv"),
    ):  # fmt: skip
        run = pravix(*command)
        shown = run.out + run.err
        assert run.status in (0, 1, 2)
        assert "fault of Pravix" not in shown
        kept = (
            {"\n", "\t", "\x1b", "\x07"} if command[0] == "recombine" else {"\n", "\t"}
        )  # SQL is exact in a pipe.
        assert not [
            mark for mark in shown if (ord(mark) < 32 or 127 <= ord(mark) < 160) and mark not in kept
        ], command


def test_a_harmless_folder_has_no_cell_that_a_spreadsheet_runs(pravix, tmp_path):
    names = ["=cmd|' /C calc'!A0", "@honey", "+kind"]
    with (tmp_path / "odd.csv").open("w", newline="", encoding="utf-8") as file:
        csv.writer(file).writerows([names, *[[str(n), f"=h{n % 4}", f"-k{n % 4}"] for n in range(60)]])
    assert pravix("decompose", "odd.csv", "--out", "made", "--harmless").status == 0
    assert pravix("dictionary", "made", "made.csv").status == 0
    for path in [*(tmp_path / "made").glob("*.csv"), tmp_path / "made.csv"]:
        with path.open(newline="", encoding="utf-8") as file:
            cells = [cell for row in csv.reader(file) for cell in row]
        assert cells
        assert not [cell for cell in cells if cell[:1] in ("=", "+", "-", "@")]


def test_trimmed_cells_are_told_and_can_be_kept(pravix, tmp_path):
    lines = ["no,remark", *(f"{n},{['late', 'late ', 'wet'][n % 3]}" for n in range(9))]
    (tmp_path / "a.csv").write_text("\n".join(lines) + "\n", encoding="utf-8")
    run = pravix("decompose", "a.csv")
    assert "outer spaces removed from 3 cells (--keep-spaces" in " ".join(run.out.split())
    assert "exactly the 9 rows as read" in run.out
    found = {one["name"]: one["distinct"] for one in pravix("survey", "a.csv", "--json").document["columns"]}
    kept = pravix("survey", "a.csv", "--keep-spaces", "--json").document["columns"]
    assert (found["remark"], {one["name"]: one["distinct"] for one in kept}["remark"]) == (2, 3)
    assert pravix("decompose", "a.csv", "--keep-spaces", "--out", "made").status == 0
    assert pravix("prove", "made").status == 0


SECRET = "s3cret-h0ney"


@pytest.mark.parametrize(
    "place", ["postgresql://ida:{}@127.0.0.1:1/x", "postgresql://ida@127.0.0.1:1/x?password={}",
              "postgresql://127.0.0.1:1/x?user=ida&password={}", "mariadb://ida:{}@127.0.0.1:1/x",
              "postgresql://ida:{}@@127.0.0.1:1/x", "postgresql://ida:a@{}@127.0.0.1:1/x",
              "postgresql://127.0.0.1:1/x?sslpassword={}", "postgresql://127.0.0.1:1/x?passfile=/{}"],
)  # fmt: skip
def test_nothing_secret_of_a_url_is_shown(in_turn, place, made):
    url = place.format(SECRET)
    commands = (
        ("survey", url, "--table", "t"), ("keys", url, "--query", "SELECT 1"), ("dependencies", url, "--table", "t"),
        ("decompose", url, "--table", "t"), ("decide", url, "--table", "t"), ("repair", url, "--table", "t"),
        ("explain", url, "a", "--table", "t"), ("arrange", url, "--table", "t"), ("connect", url),
        ("review", url), ("load", "made", url), ("check", "made", "drums.csv", "--load", url),
        ("check", "made", url, "--table", "t"), ("survey", url, "--table", "t", "--patch", "nowhere.csv"),
    )  # fmt: skip
    statuses, told = in_turn(commands)
    assert statuses == [2] * len(commands)
    assert told.count("pravix: error:") == len(commands)
    assert SECRET not in told
    assert "fault of Pravix" not in told


def test_a_password_is_in_no_file_that_comes_of_a_database(pravix, made, tmp_path):
    with new_database(POSTGRES) as plain:
        address = make_url(plain).update_query_dict({"password": SECRET, "application_name": "bees"})
        url = address.render_as_string(hide_password=False)
        run = pravix("load", "made", url)
        assert (run.status, SECRET in run.out + run.err) == (0, False)
        run = pravix("decompose", url, "--table", "line", "--out", "again", "--ledger", "l.toml")
        assert (run.status, SECRET in run.out + run.err) == (0, False)
        for command in (
            ("report", "again", "r.html"),
            ("report", "again", "r.md"),
            ("dictionary", "again", "d.md"),
        ):
            assert pravix(*command).status == 0
        run = pravix("connect", url, "--json")
        assert (run.status, SECRET in run.out + run.err) == (0, False)
        run = pravix("review", url)
        assert SECRET not in run.out + run.err
    for path in tmp_path.rglob("*"):
        assert not path.is_file() or SECRET.encode() not in path.read_bytes(), path


def test_a_second_month_is_held_against_what_the_database_has_by_now(pravix, made, tmp_path):
    """The first month's new keeper is in the database only: the second month contradicts it, and it is told."""
    assert pravix("load", "made", "sqlite:///a.db").status == 0
    header = "line_no,drum_no,keeper_no,keeper,phone,note\n"
    (tmp_path / "may.csv").write_text(
        header + "100,300,K-90,Wanda,0900,\n101,301,K-90,Wanda,0900,\n", encoding="utf-8"
    )
    run = pravix("check", "made", "may.csv", "--load", "sqlite:///a.db", "--json")
    assert (run.status, run.document["good"]) == (0, 2)
    (tmp_path / "june.csv").write_text(
        header + "100,300,K-90,Wanda,0900,\n101,301,K-90,Wanda,0900,sticky\n102,302,K-90,Vera,0900,\n"
        "103,303,K-90,Wanda,0900,\n",
        encoding="utf-8",
    )
    run = pravix("check", "made", "june.csv", "--load", "sqlite:///a.db", "--json")
    found = {finding["about"]: finding["rows"] for finding in run.document["findings"]}
    assert run.status == 1
    assert found["changed fact"] == [4]
    assert found["other values"] == [3]
    assert found["already there"] == [2]
    assert run.document["good"] == 1
    with sqlite_at(tmp_path / "a.db") as there:
        told = there.execute(
            "SELECT line_no, keeper, note FROM flat WHERE line_no > 99 ORDER BY line_no"
        ).fetchall()
    assert told == [(100, "Wanda", None), (101, "Wanda", None), (103, "Wanda", None)]


def test_cells_that_no_database_takes_are_named_and_the_others_get_in(pravix, tmp_path):
    lines = ["no,day,kg,clock,kind"]
    lines += [
        f"{n},2026-0{1 + n % 9}-{10 + n % 15},{n}.{n % 10},0{n % 9}:3{n % 10},{'ab'[n % 2]}"
        for n in range(40)
    ]
    (tmp_path / "a.csv").write_text("\n".join(lines) + "\n", encoding="utf-8")
    assert pravix("decompose", "a.csv", "--out", "made").status == 0
    bad = [
        "2026-02-30,1.5,07:30",
        "2026-13-45,1.5,07:30",
        "2026-05-05,4.25,07:30",
        "2026-05-05,1.5,25:99",
        ",1.5,07:30",
    ]
    rows = [f"{100 + n},{cells},a" for n, cells in enumerate([*bad, "2026-05-05,9.5,23:59"])]
    (tmp_path / "b.csv").write_text("\n".join([lines[0], *rows]) + "\n", encoding="utf-8")
    for server in dict.fromkeys((None, POSTGRES, MARIADB)):
        if server is None:
            urls = [f"sqlite:///{tmp_path}/a.db"]
            done = [(url, loaded_and_checked(pravix, url)) for url in urls]
        else:
            with new_database(server) as url:
                done = [(url, loaded_and_checked(pravix, url))]
        for url, run in done:
            assert run.document["good"] == 1, url
            assert sorted({row for one in run.document["findings"] for row in one["rows"]}) == [
                2,
                3,
                4,
                5,
                6,
            ], url


def loaded_and_checked(pravix, url):
    assert pravix("load", "made", url).status == 0
    return pravix("check", "made", "b.csv", "--load", url, "--json")


def test_scripts_give_every_cell_back_in_the_clients_of_the_databases(pravix, tmp_path):
    """Line ends within cells and letters beyond ASCII, in a client that is set to neither."""
    cells = ["a\r\nb", "Glacière", "ñ\rx", "it's \\ 50%", "東京", "plain"]
    with (tmp_path / "a.csv").open("w", newline="", encoding="utf-8") as file:
        csv.writer(file).writerows([["no", "told"], *[[str(n), cells[n % 6]] for n in range(30)]])
    assert pravix("decompose", "a.csv", "--out", "made").status == 0
    expected = sorted({cell.encode().hex() for cell in cells})
    found = {}
    if shutil.which("sqlite3"):
        assert pravix("sql", "made", "--rows", "--out", "s.sql").status == 0
        run = shell(
            tmp_path,
            "sqlite3 s.db < s.sql && sqlite3 s.db 'SELECT DISTINCT LOWER(HEX(told)) FROM flat'",
            LC_ALL="C",
        )
        found["sqlite3"] = sorted(run.stdout.split())
    with new_database(POSTGRES) as url:
        assert pravix("sql", "made", "--for", "postgresql", "--rows", "--out", "p.sql").status == 0
        select = "SELECT DISTINCT encode(convert_to(told, 'UTF8'), 'hex') FROM flat"
        run = shell(
            tmp_path,
            f'psql -q -v ON_ERROR_STOP=1 "{url}" -f p.sql && psql -Atc "{select}" "{url}"',
            LC_ALL="C",
        )
        found["psql"] = sorted(run.stdout.split())
    with new_database(MARIADB) as url:
        assert pravix("sql", "made", "--for", "mariadb", "--rows", "--out", "m.sql").status == 0
        one = make_url(url)
        client = f"mariadb -h {one.host} -P {one.port} -u {one.username} -p{one.password} {one.database}"
        select = "SELECT DISTINCT LOWER(HEX(told)) FROM flat"
        run = shell(tmp_path, f'{client} < m.sql && {client} -N -e "{select}"', LC_ALL="C")
        found["mariadb"] = sorted(run.stdout.split())
    assert found == dict.fromkeys(found, expected)


def test_a_search_keeps_to_its_time_and_memory_and_says_so(pravix, tmp_path):
    import random

    chance = random.Random(5)
    lines = [",".join(f"c{n}" for n in range(40))]
    lines += [",".join(str(chance.randrange(3)) for _ in range(40)) for _ in range(30_000)]
    (tmp_path / "few.csv").write_text("\n".join(lines) + "\n", encoding="utf-8")
    begun = time.monotonic()
    run = pravix("keys", "few.csv", "--seconds", "3", "--json", "--verbose")
    assert time.monotonic() - begun < 60
    assert run.status == 0
    assert run.document["complete"] is False
    assert 0 <= run.document["searched_to"] < 40
    assert "as far as the time allowed" in run.err
    run = pravix("keys", "few.csv", "--seconds", "20", "--memory", "1", "--json")
    assert (run.status, run.document["complete"]) == (0, False)
