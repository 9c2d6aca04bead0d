"""A sheet with parts, roles and formulas through the whole program: from the first look to the second month."""

import csv

import pytest
from databases import DUCKDB, MARIADB, POSTGRES, new_database, sqlite_at
from sheets import computed, jobs, poles


def write(path, relation, rows=None):
    with path.open("w", encoding="utf-8", newline="") as file:
        csv.writer(file, lineterminator="\n").writerows([relation.names, *(rows or relation.rows())])


@pytest.fixture
def sheet(tmp_path, pravix):
    write(tmp_path / "jobs.csv", jobs())
    assert pravix("repair", "jobs.csv", "--split", "part1_no", "--split", "tech1_no").status == 0
    return "jobs.csv"


def names(document):
    return {table["name"]: [column["name"] for column in table["columns"]] for table in document["tables"]}


def test_parts_are_designed_explained_and_decided_like_rows(pravix, sheet):
    document = pravix("decompose", sheet, "--json").document
    assert names(document)["part"] == ["part_no", "part_name", "part_price"]
    assert names(document)["job_part"] == ["job", "position", "part_no", "part_qty"]
    child = next(one for one in document["made_parts"] if one["of"] == "part")
    assert child["row_key"] == ["job", "position"]
    assert {"determinant": ["part_no"], "dependent": "part_price", "confidence": 1.0} in child["dependencies"]
    assert "lives in table part" in pravix("explain", sheet, "part_price").out
    assert "part_no -> part_price is believed" in pravix("explain", sheet, "part_no -> part_price").out
    assert "only by way of part_no" in pravix("explain", sheet, "part_name in job_part").out
    no_price = ["part_no -> part_price", "part_name -> part_price"]
    assert pravix("decide", sheet, *(arg for one in no_price for arg in ("--reject", one))).status == 0
    document = pravix("decompose", sheet, "--json").document
    assert "part_price" in names(document)["job_part"]
    assert pravix("decide", sheet, *(arg for one in no_price for arg in ("--take-back", one))).status == 0
    document = pravix("decompose", sheet, "--json").document
    assert "part_price" in names(document)["part"]


def test_the_rules_of_parts_are_listed(pravix, sheet):
    shown = pravix("dependencies", sheet).out
    assert "The parts of part, a row for each" in shown
    assert shown.count("Came again: ") == 1
    part, tech = pravix("dependencies", sheet, "--json").document["parts"]
    assert (part["of"], part["row_key"]) == ("part", ["job", "position"])
    priced = [one for one in part["dependencies"] if one["determinant"] == ["part_no"]]
    assert {one["dependent"]: one["standing"] for one in priced}["part_price"] == "believed"
    assert tech["near_dependencies"] == []


def test_a_thing_stands_once_in_an_owner_where_that_is_no_luck(pravix, sheet, tmp_path):
    def keys():
        made = pravix("decompose", sheet, "--json").document["tables"]
        return {table["name"]: table["candidate_keys"] for table in made}

    assert keys()["job_part"] == [["job", "position"]]
    all_rows = [dict(zip(jobs().names, row, strict=True)) for row in jobs().rows()]
    once = [tuple(row.values()) for row in all_rows if row["part1_no"] != row["part2_no"]]
    assert len(once) < len(all_rows)
    write(tmp_path / "jobs.csv", jobs(), once)
    assert keys()["job_part"] == [["job", "position"], ["job", "part_no"]]
    write(tmp_path / "jobs.csv", jobs(), once[:12])
    assert ["job", "part_no"] not in keys().get("job_part", [])


def test_what_was_decided_before_a_repair_is_not_lost_by_it(pravix, tmp_path):
    write(tmp_path / "jobs.csv", jobs())
    rejected = ["--reject", "part1_no -> part1_price", "--reject", "part2_name -> part2_price"]
    assert pravix("decide", "jobs.csv", *rejected).status == 0
    assert pravix("repair", "jobs.csv", "--split", "part1_no").status == 0
    assert "part_price" in names(pravix("decompose", "jobs.csv", "--json").document)["job_part"]


def test_parts_are_arranged_by_their_own_columns(pravix, sheet):
    assert pravix("arrange", sheet, "--together", "part_no", "--name", "tech_no=mender").status == 0
    document = pravix("decompose", sheet, "--json").document
    assert names(document)["job_part"] == [
        "job",
        "position",
        "part_no",
        "part_name",
        "part_price",
        "part_qty",
    ]
    assert "mender" in names(document)


@pytest.mark.parametrize(
    "options",
    [[], ["--surrogates", "always"], ["--surrogates", "referred", "--style", "camel"], ["--until", "2nf"],
     ["--surrogates", "always", "--numbering", "shared"], ["--tables-as", "parquet"]],
)  # fmt: skip
def test_the_folder_proves_and_every_row_comes_back(pravix, sheet, tmp_path, options):
    assert pravix("decompose", sheet, "--out", "made", *options).status == 0
    assert pravix("prove", "made").status == 0
    assert pravix("load", "made", "sqlite:///made.db").status == 0
    with sqlite_at(tmp_path / "made.db") as database:
        rows = database.execute("SELECT * FROM flat").fetchall()
    numbers = {"1": 1, "2": 2, "3": 3, "4": 4}
    wanted = [tuple(numbers.get(cell, cell) or None for cell in row) for row in jobs().rows()]
    assert sorted(map(repr, _plain(rows))) == sorted(map(repr, _plain(wanted)))


def _plain(rows):
    return [
        tuple("" if cell is None else str(cell).removesuffix("0").removesuffix(".") for cell in row)
        for row in rows
    ]


@pytest.mark.parametrize("server", [POSTGRES, MARIADB, DUCKDB], ids=["postgresql", "mariadb", "duckdb"])
def test_every_server_takes_them(pravix, sheet, server):
    assert pravix("decompose", sheet, "--out", "made").status == 0
    with new_database(server) as url:
        run = pravix("load", "made", url)
        assert run.status == 0, run.err
        assert "The view flat gives exactly the 120 rows" in run.out


def test_a_changed_price_is_noticed_next_month_and_good_rows_get_in(pravix, sheet, tmp_path):
    assert pravix("decompose", sheet, "--out", "made").status == 0
    assert pravix("load", "made", "sqlite:///made.db").status == 0
    rows = [list(row) for row in jobs().rows()[:20]]
    for number, row in enumerate(rows):
        row[0] = f"N{number:03d}"
    rows[3][6] = "99.75"
    write(tmp_path / "next.csv", jobs(), rows)
    run = pravix("check", "made", "next.csv", "--load", "sqlite:///made.db")
    assert run.status == 1
    assert "part_price 99.75 (row 5)" in run.out
    assert "job 19" in run.out
    again = pravix("check", "made", "next.csv", "--load", "sqlite:///made.db")
    assert "19 rows there already" in again.out


def test_a_thing_that_comes_twice_in_a_row_is_noticed_next_month(pravix, sheet, tmp_path):
    rows = [dict(zip(jobs().names, row, strict=True)) for row in jobs().rows()]
    once = [tuple(row.values()) for row in rows if row["part1_no"] != row["part2_no"]]
    write(tmp_path / "jobs.csv", jobs(), once)
    assert pravix("decompose", sheet, "--out", "made").status == 0
    twice = next(row for row in rows if row["part2_no"]) | {"job": "J901"}
    twice |= {f"part2_{fact}": twice[f"part1_{fact}"] for fact in ("no", "name", "price")}
    write(tmp_path / "next.csv", jobs(), [tuple(twice.values())])
    found = pravix("check", "made", "next.csv")
    assert found.status == 1
    assert f"row 2 has job J901 and part_no {twice['part1_no']} more than once" in found.out


def test_a_reference_to_nothing_is_noticed_next_month(pravix, tmp_path):
    write(tmp_path / "poles.csv", poles())
    assert pravix("decompose", "poles.csv", "--out", "made").status == 0
    assert pravix("load", "made", "sqlite:///made.db").status == 0
    rows = [list(row) for row in poles().rows()[:3]]
    for number, row in enumerate(rows):
        row[0], row[1] = f"X{number}", f"Q{number}"
    rows[0][4], rows[1][4], rows[2][4] = "Q1", "", "P777"
    write(tmp_path / "next.csv", poles(), rows)
    run = pravix("check", "made", "next.csv", "--load", "sqlite:///made.db")
    assert "fed_from_pole P777 is no pole of pole (row 4)" in run.out
    assert "pole 2" in run.out


def test_the_story_is_short_and_full_on_request(pravix, sheet):
    short, full = pravix("decompose", sheet).out, pravix("decompose", sheet, "--full").out
    assert "Steps" in full
    assert "Links" in full
    assert "Steps" not in short
    assert len(short.splitlines()) < 45 < len(full.splitlines())
    assert "pravix decompose jobs.csv --full" in short
    assert short.count("job_tech") < full.count("job_tech")


def test_wishes_without_effect_and_names_that_are_taken_are_refused(pravix, sheet, tmp_path):
    before = (tmp_path / "jobs.ledger.toml").read_text()
    for wish, told in (
        (["--different", "job, part_no"], "changes nothing"),
        (["--key", "job"], "changes nothing"),
        (["--rename", "part_name=part_no"], "another column is called part_no already"),
        (["--rename", "absent=x"], "has no column absent"),
        (["--same", "job"], "same is about two columns"),
        (["--take-back", "part_no"], "nothing in jobs.ledger.toml is about part_no"),
    ):
        run = pravix("arrange", sheet, *wish)
        assert run.status == 2
        assert told in run.err
    assert (tmp_path / "jobs.ledger.toml").read_text() == before


def test_wishes_answers_and_policies_are_taken_back(pravix, sheet, tmp_path):
    plain = pravix("decompose", sheet, "--json").document["tables"]
    assert (
        pravix("arrange", sheet, "--together", "part_no", "--style", "snake", "--rename", "job=task").status
        == 0
    )
    run = pravix("arrange", sheet, "--take-back", "part_no", "--take-back", "style", "--take-back", "job")
    assert "Taken back" in run.out
    assert pravix("decompose", sheet, "--json").document["tables"] == plain
    assert "taken back: family: part1_no" in pravix("repair", sheet, "--take-back", "part1_no").out
    assert "job_part" not in names(pravix("decompose", sheet, "--json").document)
    assert "part1_no" not in (tmp_path / "jobs.ledger.toml").read_text()


def test_whether_two_groups_are_one_kind_of_thing_is_asked_after_all_else(pravix, tmp_path):
    rows = [list(row) for row in poles().rows()]
    for row in rows:
        row[4] = "P998" if row[1] == "P007" else row[4]
    write(tmp_path / "poles.csv", poles(), rows)
    questions = pravix("decide", "poles.csv", "--json").document["questions"]
    last = questions[-1]
    assert last["kind"] == "same"
    assert last["groups"] == [["fed_from_pole"], ["pole"]]
    assert "P998" in last["text"]
    assert pravix("arrange", "poles.csv", "--different", "fed_from_pole, pole").status == 0
    assert "same" not in [
        one.get("kind") for one in pravix("decide", "poles.csv", "--json").document["questions"]
    ]


def test_declarations_are_shown_kept_and_taken_back(pravix, tmp_path):
    write(tmp_path / "jobs.csv", computed())
    assert "How it is written" in pravix("declare", "jobs.csv").out
    said = ["computed: mean = mean of low, high", "family: oil_a, oil_b, oil_c = tank"]
    assert pravix("declare", "jobs.csv", *said, "--why", "as the sheet says").status == 0
    shown = pravix("declare", "jobs.csv").out
    assert "family: oil_a, oil_b, oil_c = tank" in shown
    assert "as the sheet says" in shown
    tables = names(pravix("decompose", "jobs.csv", "--out", "made", "--json").document)
    assert "tank" in tables["job_tank"]
    assert "mean" not in tables["job"]
    assert pravix("prove", "made").status == 0
    run = pravix("declare", "jobs.csv", "computed: dry = 99 - wet")
    assert run.status == 2
    assert "row 2" in run.err
    assert "taken back: family" in pravix("declare", "jobs.csv", "--take-back", "oil_b").out
    assert "job_tank" not in names(pravix("decompose", "jobs.csv", "--json").document)
    assert "oil_a" not in (tmp_path / "jobs.ledger.toml").read_text()


def test_columns_to_be_handled_with_care_are_pointed_out(pravix, tmp_path):
    (tmp_path / "a.csv").write_text(
        "keeper_no,born,salary\n" + "\n".join(f"K{n},19{n + 50}-01-0{n % 9 + 1},{n * 13}" for n in range(30))
    )
    assert "born: birth (by its name)" in pravix("survey", "a.csv").out
    found = pravix("survey", "a.csv", "--json").document["sensitive"]
    assert [one["kind"] for one in found] == ["birth", "pay"]
    assert "--apart 'born, salary'" in pravix("arrange", "a.csv").out.replace('"', "'")
