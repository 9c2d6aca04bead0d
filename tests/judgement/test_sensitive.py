"""Columns to be handled with care, people's names, and numbers that authorities give out."""

from random import Random

import pytest

from pravix.design.build import designed
from pravix.discovery.search import discover
from pravix.first_normal_form.repair import Repaired
from pravix.judgement.judge import judge
from pravix.judgement.people import holds_people
from pravix.judgement.sensitive import sensitive_columns
from pravix.relation.relation import Column, Relation
from pravix.theory.dependency import parse_dependencies


def kinds(header, *rows):
    relation = Relation.from_rows(header, rows or [["x"] * len(header)] * 3)
    return {one.column: one.kind for one in sensitive_columns(relation)}


@pytest.mark.parametrize(
    ("name", "kind"),
    [
        ("birth_date", "birth"), ("Geburtsdatum", "birth"), ("date de naissance", "birth"), ("nacimiento", "birth"),
        ("data_nascita", "birth"), ("nascimento", "birth"), ("geboortedatum", "birth"), ("monthly_salary", "pay"),
        ("Gehalt", "pay"), ("salaire", "pay"), ("stipendio", "pay"), ("IBAN", "bank"), ("bank account", "bank"),
        ("home_address", "home"), ("Wohnadresse", "home"), ("passport no", "identity"), ("SSN", "identity"),
        ("Diagnose", "health"), ("blood group", "health"), ("religion", "belief"),
    ],
)  # fmt: skip
def test_told_by_name_in_seven_languages(name, kind):
    assert kinds(["keeper", name]) == {name: kind}


@pytest.mark.parametrize(
    "name", ["address", "health", "handicap", "account", "income_band", "weight", "street"]
)
def test_what_is_not_about_people_is_left_alone(name):
    assert kinds(["tree_no", name]) == {}


def test_health_of_people_is_and_of_trees_is_not():
    assert kinds(["employee_no", "health"]) == {"health": "health"}
    assert kinds(["tree_no", "health"]) == {}


def iban(draw):
    account = "".join(str(draw.randint(0, 9)) for _ in range(18))
    return f"DE{98 - int(account + '131400') % 97:02d}{account}"


def test_told_by_check_digits_and_by_shape():
    draw = Random(2)
    rows = [
        [iban(draw), f"{draw.randint(100, 999)}-{draw.randint(10, 99)}-{draw.randint(1000, 9999)}"]
        for _ in range(12)
    ]
    assert kinds(["konto", "nummer"], *rows) == {"konto": "bank", "nummer": "identity"}
    rows[3][0] = rows[3][0][:-1] + str((int(rows[3][0][-1]) + 1) % 10)
    assert kinds(["konto", "nummer"], *rows) == {"nummer": "identity"}


@pytest.mark.parametrize(
    ("name", "values", "people"),
    [
        ("translator", ["Ida Moss", "Bruno Holm", "Jean Paul Aas"], True),
        ("by", ["R. Dale", "L. Winter", "S. Okafor"], True),
        ("x", ["Moss, Ida", "Holm, Bruno"], True),
        ("street", ["Mill Lane", "Hive Road"], False),
        ("keeper", ["K-101", "K-102"], False),
        ("keeper", [], False),
    ],
)
def test_names_of_people(name, values, people):
    assert holds_people(Column.from_texts(name, values)) is people


def deliveries(count=300):
    draw = Random(5)
    keepers = [
        [f"K{n:02d}", f"{one} Moss", iban(draw), f"R-{n * 7 + 100}"]
        for n, one in enumerate("Ida Bruno Pia Rolf Sven Una Kai Ada Nora Ole Eva Liv".split())
    ]
    rows = [[f"D{n:04d}", *draw.choice(keepers), str(draw.randint(1, 40))] for n in range(count)]
    return Relation.from_rows(["delivery", "keeper_no", "keeper", "account", "licence", "kg"], rows)


def keys(relation, accepted=()):
    judgement = judge(relation, discover(relation, largest=2), accepted)
    design = designed(Repaired(relation, relation), judgement)
    assert design.proof.holds
    return design, design.table("keeper").keys


def test_registered_numbers_are_unique_and_names_of_people_only_on_request():
    design, found = keys(deliveries())
    assert found == (("keeper_no",), ("account",), ("licence",))
    (few,) = [one.text for one in design.remarks if one.about == "few rows"]
    assert "account of keeper (12 rows) and licence of keeper (12 rows)" in few
    _, said = keys(deliveries(), parse_dependencies("keeper -> keeper_no"))
    assert ("keeper",) in said


def test_care_is_a_remark_and_nothing_is_set_apart_unasked():
    design, _ = keys(deliveries())
    (told,) = [one for one in design.remarks if one.about == "sensitive"]
    assert "account (bank" in told.text
    assert '--apart "account"' in told.text
    assert "account" in design.table("keeper").column_names
