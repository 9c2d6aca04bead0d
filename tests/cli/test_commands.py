"""Each command on files in a temporary folder: the documents of the contract, and what a person reads."""

import csv
import json
from pathlib import Path

import pytest

NAMES = ["line_no", "drum_no", "keeper_no", "keeper", "phone", "note"]


def test_survey(pravix, sheet):
    document = pravix("survey", sheet, "--json").document
    assert document["source"] == {"rows": 48, "columns": NAMES}
    by_name = {column["name"]: column for column in document["columns"]}
    assert by_name["drum_no"] | {"examples": []} == {
        "name": "drum_no", "type": "integer", "reason": "whole numbers without leading zeros", "exceptions": [],
        "distinct": 16, "blanks": 0, "repeats": 32, "examples": [],
    }  # fmt: skip
    assert (by_name["note"]["type"], by_name["note"]["blanks"]) == ("empty", 48)
    told = pravix("survey", sheet).out
    assert "48 rows, 6 columns" in told
    assert "drum_no" in told


def test_keys(pravix, sheet):
    document = pravix("keys", sheet, "--json").document
    assert (document["format"], document["version"], document["complete"]) == ("pravix.keys", 1, True)
    assert [key["columns"] for key in document["candidate_keys"]] == [["line_no"]]
    limited = pravix("keys", sheet, "--largest", "0", "--json").document
    assert (limited["complete"], limited["searched_to"], limited["candidate_keys"]) == (False, 0, [])
    assert "line_no" in pravix("keys", sheet).out


def test_equal_rows_are_named_where_there_is_no_key(pravix, tmp_path):
    (tmp_path / "twice.csv").write_text("a,b\n1,x\n2,y\n1,x\n")
    assert pravix("keys", "twice.csv", "--json").document["candidate_keys"] == []
    assert (
        "No key: 1 row repeats an earlier row in full; rows 2 and 4 are equal."
        in pravix("keys", "twice.csv").out
    )


def test_blanks_distinct_makes_a_column_of_blanks_a_key(pravix, sheet):
    document = pravix("keys", sheet, "--blanks", "distinct", "--json").document
    assert ["note"] in [key["columns"] for key in document["candidate_keys"]]


def test_dependencies(pravix, sheet):
    document = pravix("dependencies", sheet, "--json").document
    assert (document["format"], document["complete"]) == ("pravix.dependencies", True)
    rules = {(*rule["determinant"], "->", rule["dependent"]): rule for rule in document["dependencies"]}
    assert len(rules) == len(document["dependencies"])
    assert rules["->", "note"]["standing"] == "doubtful"
    believed = rules["keeper_no", "->", "keeper"]
    assert believed["standing"] == "believed"
    evidence = believed["evidence"]
    assert (evidence["observed_by"], evidence["observations"], evidence["tests"]) == (["drum_no"], 16, 12)
    total = evidence["bits"].pop("total")
    assert sum(evidence["bits"].values()) == pytest.approx(total, abs=0.05)
    assert document["near_dependencies"] == []


def test_dependencies_for_a_person(pravix, sheet):
    told = pravix("dependencies", sheet).out
    assert "believed" in told
    assert "doubtful rule" in told
    doubtful = pravix("dependencies", sheet, "--standing", "doubtful").out
    assert "note is the same in every row" in " ".join(doubtful.split())
    assert len(pravix("dependencies", sheet, "--all").out.splitlines()) > len(told.splitlines()) - 3


def test_an_accepted_rule_that_the_rows_break_is_listed_with_its_exceptions(pravix, sheet, tmp_path):
    text = (tmp_path / sheet).read_text().replace("5,204,K-10,Ada", "5,204,K-10,Adda")
    (tmp_path / sheet).write_text(text)
    ledger = "[[decision]]\nrule = 'keeper_no -> keeper'\nstanding = 'accepted'\n"
    (tmp_path / "mine.toml").write_text(ledger)
    document = pravix("dependencies", sheet, "--ledger", "mine.toml", "--json").document
    assert document["near_dependencies"] == [
        {
            "determinant": ["keeper_no"],
            "dependent": "keeper",
            "standing": "accepted",
            "exceptions": 1,
            "rows": [6],
        }
    ]
    run = pravix("decompose", sheet, "--ledger", "mine.toml", "--out", "made")
    assert run.status == 1
    assert "row 6 would be lost" in run.out
    assert not (tmp_path / "made").exists()


def rejoined(folder):
    """Join the CSV tables of a folder back, by the foreign keys of design.json."""
    tables = json.loads((folder / "design.json").read_text(encoding="utf-8"))["tables"]
    rows = {}
    for table in tables:
        with (folder / table["file"]).open(encoding="utf-8", newline="") as file:
            rows[table["name"]] = list(csv.DictReader(file))
    by_name = {table["name"]: table for table in tables}

    def widened(name, row):
        for link in by_name[name]["foreign_keys"]:
            other, columns = link["references"]["table"], link["references"]["columns"]
            for found in rows[other]:
                if all(
                    found[there] == row[here] for here, there in zip(link["columns"], columns, strict=True)
                ):
                    row = in_role(other, link.get("role"), widened(other, dict(found))) | row
        return row

    def in_role(name, role, row):
        roles = {one["role"]: one["columns"] for one in by_name[name].get("roles", [])}
        return {roles.get(role, {}).get(column, column): cell for column, cell in row.items()}

    return [widened(tables[-1]["name"], dict(row)) for row in rows[tables[-1]["name"]]]


@pytest.mark.parametrize("name", ["sheet", "demo"])
def test_the_written_tables_join_back_to_the_file(pravix, sheet, tmp_path, name):
    source = sheet
    if name == "demo":
        assert pravix("demo", "honey").status == 0
        source = "honey/deliveries.csv"
    assert pravix("decompose", source, "--out", "made").status == 0
    with (tmp_path / source).open(encoding="utf-8", newline="") as file:
        header, *expected = csv.reader(file)
    found = [[row.get(column, "") for column in header] for row in rejoined(tmp_path / "made")]
    assert sorted(found) == sorted(expected)


def test_decompose(pravix, sheet, tmp_path):
    document = pravix("decompose", sheet, "--json").document
    assert document["format"] == "pravix.design"
    assert {table["name"] for table in document["tables"]} == {"keeper", "drum", "line"}
    drum = next(table for table in document["tables"] if table["name"] == "drum")
    assert drum["foreign_keys"] == [
        {
            "columns": ["keeper_no"],
            "references": {"table": "keeper", "columns": ["keeper_no"]},
            "cardinality": "many to one",
            "on_delete": "restrict",
            "on_update": "restrict",
            "told": "a row of drum refers to exactly one row of keeper; a row of keeper is referred to by 4 rows of drum",
        }
    ]
    assert drum["rows"] == 16
    assert document["proof"] == {
        "numbers_hold": True,
        "wished_below": [],
        "lossless": True,
        "preserves_dependencies": True,
        "third_normal_form": True,
        "references_hold": True,
        "roles_hold": True,
        "rejoined_rows": 48,
        "missing_rows": [],
        "unrepaired_rows": [],
    }
    assert {step["kind"] for step in document["steps"]} == {"transitive"}
    run = pravix("decompose", sheet, "--out", "made", "--json")
    written = json.loads((tmp_path / "made" / "design.json").read_text(encoding="utf-8"))
    for table in written["tables"]:
        assert (tmp_path / "made" / table.pop("file")).exists()
    assert set(written.pop("findings")) == {"read", "evidence", "decisions", "questions", "near_dependencies"}
    assert written == run.document == document


def test_a_folder_is_proved_from_itself(pravix, sheet, tmp_path):
    assert pravix("decompose", sheet, "--out", "made").status == 0
    run = pravix("prove", "made")
    assert run.status == 0
    assert "The tables join back to exactly the 48 rows as read, cell by cell." in run.out
    keepers = tmp_path / "made" / "keeper.csv"
    keepers.write_text(keepers.read_text().replace("Milo", "Mila"))
    run = pravix("prove", "made", "--json")
    assert run.status == 1
    failing = [claim["claim"] for claim in run.document["claims"] if not claim["holds"]]
    assert [text.split(",")[0] for text in failing] == [
        "The tables join to 48 rows",
        "In SQLite the view flat does not give the rows of the file.",
    ]
    assert pravix("prove", "nowhere").status == 2


def test_the_same_file_gives_the_same_output_byte_for_byte(pravix, sheet):
    for command in ("survey", "keys", "dependencies", "decompose"):
        runs = {pravix(command, sheet, "--json", PYTHONHASHSEED=str(seed)).out for seed in (1, 2, 3)}
        assert len(runs) == 1, command


def test_decisions_in_the_ledger_beside_the_file_change_the_design(pravix, sheet, tmp_path):
    lines = [
        f"[[decision]]\nrule = '{rule}'\nstanding = 'rejected'\n"
        for rule in ("drum_no -> keeper_no", "drum_no -> keeper")
    ]
    (tmp_path / "drums.ledger.toml").write_text("\n".join(lines))
    document = pravix("decompose", sheet, "--json").document
    assert ["drum_no"] not in [
        table["primary_key"] for table in document["tables"] if "keeper_no" in str(table["columns"])
    ]


def test_explain(pravix, sheet):
    document = pravix("explain", sheet, "phone", "--json").document
    assert (document["table"], document["in_primary_key"]) == ("keeper", False)
    assert [link["dependent"] for link in document["chain"]] == ["drum_no", "keeper_no", "phone"]
    told = pravix("explain", sheet, "phone").out
    assert "phone lives in table keeper, described by its key keeper_no." in told
    assert "For example rows" in told


def test_demo_tells_the_story_and_writes_everything(pravix, tmp_path):
    run = pravix("demo")
    assert run.status == 0
    folder = tmp_path / "honey-demo"
    assert sorted(path.name for path in folder.iterdir()) == [
        "deliveries.csv",
        "deliveries_office.xlsx",
        "deliveries_rough.csv",
        "deliveries_september.csv",
        "registers",
        "report.html",
        "tables",
        "tables.svg",
        "whiteboard.txt",
    ]
    assert "The 8 tables join back to exactly the 420 rows as read." in run.out
    assert "pravix survey honey-demo/deliveries_office.xlsx" in run.out
    for line in run.out.splitlines():
        if line.strip().startswith("pravix "):
            assert pravix(*line.split()[1:]).status == (1 if line.split()[1] in ("check", "review") else 0), (
                line
            )
    again = pravix("demo")
    assert "honey-demo-2" in again.out
    taken = pravix("demo", "honey-demo")
    assert taken.status == 2
    assert "holds what Pravix did not write there" in taken.err


def test_the_shipped_data_is_what_the_script_makes(tmp_path):
    import subprocess
    import sys

    import pravix.demo

    script = Path(__file__).parents[2] / "tools" / "make_demo.py"
    subprocess.run([sys.executable, str(script), str(tmp_path)], check=True)
    for made in tmp_path.iterdir():
        assert made.read_bytes() == Path(pravix.demo.__file__).with_name(made.name).read_bytes()


@pytest.mark.parametrize("columns", ["60", "200"])
def test_text_fits_the_terminal_and_has_no_decoration_in_a_pipe(pravix, sheet, columns):
    for command in ("survey", "keys", "dependencies", "decompose"):
        told = pravix(command, sheet, COLUMNS=columns).out
        assert "\x1b" not in told
        assert all(line == line.rstrip() for line in told.splitlines())


def test_survey_wraps_a_long_value_rather_than_the_type(pravix, tmp_path):
    lines = ["hive_of_the_drum,forage,weight_kg"]
    lines += [f"{number},sweet chestnut of the southern slope,{number}.25" for number in range(10, 40)]
    (tmp_path / "hives.csv").write_text("\n".join(lines) + "\n")
    table, _ = pravix("survey", "hives.csv").out.split("Cells: #")
    rows = [line.split() for line in table.splitlines()]
    assert [row[1] for row in rows if row[:1] == ["weight_kg"]] == ["decimal(4,2)"]
    assert [row[1] for row in rows if row[:1] == ["forage"]] == ["text(36)"]
