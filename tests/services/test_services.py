"""What the command line and the Python API share: each service decides, checks first, and records or not."""

from dataclasses import replace
from importlib.resources import files

import pytest

from pravix.analysis import Analysis
from pravix.document.design_document import flat_marks
from pravix.errors import InputError
from pravix.first_normal_form.findings import findings
from pravix.judgement.decisions import Kind
from pravix.judgement.questions import Choice
from pravix.ledger.key_decisions import Says
from pravix.ledger.ledger import read_ledger
from pravix.services import handing_over
from pravix.services.arranging import arranged, arrangement, record_wishes
from pravix.services.deciding import Deciding, chosen, decided, parsed_keys, parsed_rules
from pravix.services.describing import meaning, record_meaning
from pravix.services.explaining import FORMS, Reasons, explained, lines_of
from pravix.services.handing_over import write_results
from pravix.services.keeping import ledger_of, record_new
from pravix.services.repairing import answer_about, record_answers, with_answers
from pravix.services.reviewing import read_designs, review
from pravix.sources.reading import Reading


@pytest.fixture
def sheet(tmp_path):
    def made(name="deliveries.csv"):
        (tmp_path / name).write_bytes(files("pravix.demo").joinpath(name).read_bytes())
        return Analysis(str(tmp_path / name))

    return made


def text_of(analysis):
    with open(ledger_of(analysis), encoding="utf-8") as file:
        return file.read()


def test_decisions_are_recorded_one_by_one_and_taken_back(sheet):
    session = Deciding(sheet(), why="asked Ida", by="Noor")
    assert not session.back()
    session.decide([(rule, False) for rule in parsed_rules(["village -> district"])])
    session.decide([], parsed_keys(["gross_kg"], Says.NOT_KEY))
    told = text_of(session.analysis)
    assert told.count("[[decision]]") == 1
    assert 'by = "Noor"' in told
    assert "village" not in [table.name for table in session.analysis.design.tables]
    assert session.back()
    assert "gross_kg" not in text_of(session.analysis)
    assert session.back()
    assert "village" in [table.name for table in session.analysis.design.tables]


@pytest.mark.parametrize(
    ("rules", "keys", "told"),
    [
        (["village -> nowhere"], [], "no column nowhere"),
        (["district -> village"], ["phone"], "phone"),
    ],
)
def test_what_cannot_be_decided_is_refused_and_leaves_no_ledger(sheet, rules, keys, told):
    analysis = sheet()
    session = Deciding(analysis, "", "")
    given = [(rule, True) for rule in parsed_rules(rules)]
    with pytest.raises(InputError, match=told):
        session.decide(given, parsed_keys(keys, Says.KEY))
    with pytest.raises(FileNotFoundError):
        text_of(analysis)


@pytest.mark.parametrize(("kind", "says"), [(Kind.KEY, Says.KEY), (Kind.REFER, Says.REFER_BY)])
def test_an_answer_to_a_choice_says_one_or_that_none_is_a_key(kind, says):
    choice = Choice(kind, (("drum_no",), ("line", "season")), (4, 9), (2, 3), 1.0)
    assert chosen(choice, 1) == [(("line", "season"), says)]
    assert chosen(choice, None) == [(("drum_no",), Says.NOT_KEY), (("line", "season"), Says.NOT_KEY)]


@pytest.mark.parametrize(
    ("do", "text", "told"),
    [
        ("name", "honey_code", "no name"),
        ("check", "tare_kg:weight", "check must be"),
        ("link", "keeper_no: cascade", "no rule"),
        ("link", "keeper_no: on_delete vanish", "on_delete must be"),
        ("list", "raw, filtered", "about one column"),
        ("dance", "raw", "do must be"),
        ("together", '"village', "Write columns like this|quote"),
    ],
)
def test_wishes_that_say_nothing_are_refused(do, text, told):
    with pytest.raises(InputError) as refused:
        arrangement(do, text)
    assert any(part in f"{refused.value} {refused.value.hint}" for part in told.split("|"))


def test_wishes_are_tried_without_being_recorded_and_recorded_when_they_hold(sheet):
    analysis = sheet()
    wish = arrangement("name", "keeper_no=beekeeper", why="our word")
    tried = arranged(analysis, {"style": "camel"}, [wish])
    assert "beekeeper" in [table.name for table in tried.design.tables]
    with pytest.raises(FileNotFoundError):
        text_of(analysis)
    kept = record_wishes(analysis, {"style": "snake"}, [wish])
    assert "beekeeper" in [table.name for table in kept.design.tables]
    assert 'why = "our word"' in text_of(analysis)
    assert read_ledger(ledger_of(analysis)).wishes.style == "snake"


def test_answers_about_a_column_and_what_they_lead_to(sheet):
    analysis = replace(sheet("deliveries_rough.csv"), unrepaired=True)
    found = findings(analysis.relation)
    merged = answer_about(found, "filtered", "merge", name="treatment")
    assert merged.name == "treatment"
    assert answer_about(found, "forage", "split", name="plant").name == ""
    with pytest.raises(InputError, match="cannot be answered with merge"):
        answer_about(found, "forage", "merge")
    assert with_answers(analysis, [merged]) == (merged,)
    left_out = answer_about(found, "net_kg", "leave out")
    assert record_answers(analysis, [left_out], Reading()) == ledger_of(analysis)
    assert read_ledger(ledger_of(analysis)).answers == (left_out,)


def test_two_answers_that_take_one_column_away_are_refused(sheet):
    from pravix.first_normal_form.answer import Answer
    from pravix.first_normal_form.repairing import repaired
    from pravix.relation.relation import Relation

    rows = [[str(n), "yes" if n % 2 else "no", "no" if n % 2 else "yes", f"{n % 2} x"] for n in range(40)]
    relation = Relation.from_rows(["no", "raw", "filtered", "note"], rows)
    ids = [one.id for one in findings(relation) if one.columns == ("raw", "filtered")]
    both = [Answer(ids[0], "merge", "treatment"), Answer(ids[0], "merge", "no")]
    with pytest.raises(InputError, match="there is a column no already"):
        repaired(relation, both[1:])
    assert repaired(relation, both[:1]).relation.names == ("no", "treatment", "note")


@pytest.mark.parametrize(
    ("wishes", "told"),
    [
        ({}, "say of what"),
        ({"column": "tare_kg", "table": "drum"}, "say of what"),
        ({"value": "RAP"}, "say of what"),
        ({"column": "nowhere"}, "no column nowhere"),
        ({"column": "treatment", "value": "boiled"}, "treatment is nowhere boiled"),
        ({"table": "nothing"}, "no table nothing"),
    ],
)
def test_meanings_are_of_something(sheet, wishes, told):
    with pytest.raises(InputError, match=told):
        meaning(sheet(), "a word", **wishes)


def test_meanings_and_all_else_are_recorded_as_what_is_new(sheet, tmp_path):
    analysis = sheet()
    record_meaning(analysis, meaning(analysis, "as it came", column="treatment", value="raw"))
    before = read_ledger(ledger_of(analysis))
    after = replace(before, meanings=(*before.meanings, meaning(analysis, "a barrel", table="drum")))
    record_new(ledger_of(analysis), before, after, Reading())
    record_new(ledger_of(analysis), after, after, Reading(delimiter=","))
    assert read_ledger(ledger_of(analysis)).reading == Reading(delimiter=",")
    assert text_of(analysis).count("[[meaning]]") == 2
    rule = parsed_rules(["from_depot -> from_town"])[0]
    ledger = decided(analysis, [(rule, True)])
    assert ledger.decisions[0].accepted
    assert "decision" not in text_of(analysis)


@pytest.mark.parametrize(
    ("what", "first"),
    [
        ("keeper", "Table keeper (keeper_no, keeper, phone, village)"),
        ("key drum", "The key of drum: drum_no"),
        ("link drum apiary", "drum and apiary"),
        ("phone in drum", "Why phone is not in drum"),
    ],
)
def test_questions_find_what_they_are_about(sheet, what, first):
    analysis = sheet()
    found = explained(analysis, what if what != "keeper" else "table keeper")
    assert isinstance(found, Reasons)
    assert lines_of(analysis, found)[0] == first
    assert len(found.reasons) >= 1


def test_a_question_about_nothing_tells_the_forms(sheet):
    with pytest.raises(InputError) as refused:
        explained(sheet(), "honeycomb")
    assert FORMS in refused.value.hint


def test_a_design_that_agrees_with_the_rows_is_sound(tmp_path):
    (tmp_path / "good.txt").write_text("Keeper(_keeper_no_, keeper, phone)\n", encoding="utf-8")
    (tmp_path / "rows.csv").write_text("keeper_no,keeper,phone\n1,Ida,11\n2,Noor,12\n", encoding="utf-8")
    ((name, tables),) = read_designs([str(tmp_path / "good.txt")]).items()
    done = review(tables, data=str(tmp_path / "rows.csv"))
    assert (name, done.sound, list(done.lacking)) == ("good.txt", True, [])
    assert [one.broken for one in done.rules] == [(), ()]
    (tmp_path / "rows.csv").write_text("keeper_no,keeper,phone\n1,Ida,11\n1,Noor,11\n", encoding="utf-8")
    assert not review(tables, data=str(tmp_path / "rows.csv")).sound


@pytest.fixture
def jobs(tmp_path):
    """Jobs with up to three technicians each: a numbered family with two facts, and a list."""
    lines = ["job,site,tech1_no,tech1_name,tech2_no,tech2_name,tools"]
    for job in range(60):
        people = [f"T{(job * place) % 7},name{(job * place) % 7}" for place in (1, 2)]
        tools = "; ".join(["saw", "net", "hook"][: job % 3 + 1][:: (-1) ** job])
        lines.append(f"J{job},S{job % 5},{people[0]},{people[1] if job % 2 else ','},{tools}")
    (tmp_path / "jobs.csv").write_text("\n".join(lines) + "\n", encoding="utf-8")
    analysis = replace(Analysis(str(tmp_path / "jobs.csv")), unrepaired=True)
    found = findings(analysis.relation)
    given = [answer_about(found, column, "split") for column in ("tech1_no", "tools")]
    record_answers(analysis, given, Reading())
    return Analysis(str(tmp_path / "jobs.csv"))


def test_a_family_of_several_facts_has_a_home_and_is_explained(jobs):
    assert jobs.basis.evidence
    found = explained(jobs, "tech")
    assert (found.home.name, found.name) == ("job_tech", "")
    assert lines_of(jobs, found)[0] == "tech lives in table job_tech"


def test_a_column_that_refers_is_said_to_stand_there(sheet):
    analysis = sheet()
    assert lines_of(analysis, explained(analysis, "village in keeper"))[1:] == [
        "village does stand in keeper, as a reference to village, where it lives."
    ]


def test_items_of_a_list_get_no_second_table(jobs):
    with pytest.raises(InputError, match="tools holds several values"):
        arranged(jobs, {}, [arrangement("table", "tools")])


@pytest.mark.parametrize("taken", ["village", "Depot", "beekeeper"])
def test_a_wish_that_takes_a_name_from_another_table_is_refused(sheet, taken):
    analysis = sheet()
    if taken == "beekeeper":
        analysis = arranged(analysis, {}, [arrangement("name", "apiary_no=beekeeper")])
    with pytest.raises(InputError, match=f"another table is called {taken} already"):
        arranged(analysis, {}, [arrangement("name", f"keeper_no={taken}")])


def test_two_tables_may_change_their_names(sheet):
    wishes = [arrangement("name", "keeper_no=village"), arrangement("name", "village=keeper")]
    made = arranged(sheet(), {}, wishes).design
    assert {
        table.name: table.primary_key for table in made.tables if table.name in ("keeper", "village")
    } == {
        "keeper": ("village",),
        "village": ("keeper_no",),
    }


@pytest.mark.parametrize("key", ["from_depot", "to_depot"])
def test_a_table_of_several_roles_is_named_by_its_key_in_any_of_them(sheet, key):
    made = arranged(sheet(), {}, [arrangement("name", f"{key}=station")]).design
    assert "station" in [table.name for table in made.tables]
    assert "depot" not in [table.name for table in made.tables]


def test_a_name_for_a_table_that_is_not_there_is_refused(sheet):
    with pytest.raises(InputError, match="no table has the key driver") as refused:
        arranged(sheet(), {}, [arrangement("name", "driver=person")])
    assert "from_depot" in refused.value.hint
    assert "delivery_no, drum_no" in refused.value.hint


def test_what_was_begun_beside_the_design_is_written_the_same(sheet, tmp_path, monkeypatch):
    plain = sheet()
    write_results(plain, str(tmp_path / "plain"))
    monkeypatch.setattr(handing_over, "_MANY_ROWS", 1)
    marked = []
    monkeypatch.setattr(handing_over, "flat_marks", lambda rows: marked.append(flat_marks(rows)))
    begun = sheet()
    handing_over.foresee(begun)
    write_results(begun, str(tmp_path / "begun"))
    names = sorted(path.name for path in (tmp_path / "plain").iterdir())
    assert names == sorted(path.name for path in (tmp_path / "begun").iterdir())
    for name in names:
        assert (tmp_path / "plain" / name).read_bytes() == (tmp_path / "begun" / name).read_bytes(), name
    flat = begun.design and flat_marks(begun.repaired.original)
    assert marked == [flat]
