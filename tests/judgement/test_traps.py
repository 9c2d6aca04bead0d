"""The traps of a sample: what is repeated, unique, blank, constant or near without being a rule."""

import random

import pytest

from pravix.discovery.search import discover
from pravix.judgement.evidence import by_luck, held_out
from pravix.judgement.judge import judge
from pravix.judgement.near import Oddity, near_dependencies
from pravix.judgement.use import Use
from pravix.relation.relation import Relation
from pravix.theory.closure import implies
from pravix.theory.dependency import dependency, parse_dependencies


def rule(text):
    return parse_dependencies(text)[0]


def judged(relation, accepted=(), rejected=()):
    return judge(
        relation, discover(relation, largest=4), list(map(rule, accepted)), list(map(rule, rejected))
    )


def weighings(rows, stocks, seed=2):
    """Weighings of drums; each drum has a hive stand, each stand a warden; a price by honey and size."""
    draw = random.Random(seed)
    stand_of = {drum: f"S{draw.randrange(12):02d}" for drum in range(stocks)}
    warden_of = {f"S{place:02d}": f"W-{draw.randrange(5)}" for place in range(12)}
    honeys = ["Lime", "Fir", "Rape", "Heather", "Clover"]
    price = {
        (honey, size): f"{draw.randrange(50, 999)}.50" for honey in honeys for size in ("S", "M", "L", "XL")
    }
    lines = []
    for number in range(rows):
        drum = draw.randrange(stocks)
        honey, size = draw.choice(honeys), draw.choice(("S", "M", "L", "XL"))
        lines.append(
            [str(90000 + number), f"{2000 + drum}", stand_of[drum], warden_of[stand_of[drum]], honey, size,
             price[honey, size], str(draw.randrange(20, 60)), draw.choice(["", "", "dented"])]
        )  # fmt: skip
    names = ["weighing_no", "drum_no", "stand", "warden_no", "honey", "size", "price", "minutes", "remark"]
    return Relation.from_rows(names, lines)


def test_a_composite_rule_does_not_drown_among_accidental_ones():
    judgement = judged(weighings(400, 60))
    assert implies(judgement.trusted, rule("honey, size -> price"))
    composites = [found for found in judgement.trusted if len(found.determinant) > 1]
    assert composites == [rule("honey, size -> price")]


def test_a_pair_that_is_nearly_unique_determines_nothing():
    judgement = judged(weighings(80, 60))
    assert not implies(judgement.trusted, rule("drum_no, minutes -> honey"))
    assert not implies(judgement.trusted, rule("drum_no, minutes -> remark"))


def lucky(rows, seed):
    """Rows whose crate, of few kinds, seems to decide the hour: by luck in few rows, as a rule in many."""
    draw = random.Random(seed)
    hour = {f"C{place:02d}": str(draw.randrange(6, 20)) for place in range(30)}
    crates = list(hour)
    lines = []
    for number in range(rows):
        crate = draw.choice(crates)
        lines.append([str(7000 + number), crate, hour[crate], draw.choice("abc")])
    return Relation.from_rows(["line_no", "crate", "hour", "mark"], lines)


def test_a_rule_that_a_small_sample_shows_by_luck_is_doubted_and_with_many_repeats_believed():
    few = Relation.from_rows(
        ["line_no", "crate", "hour", "mark"],
        [[str(place), f"C{place:02d}", str(6 + place % 12), "abc"[place % 3]] for place in range(58)]
        + [["58", "C00", "6", "a"], ["59", "C12", "6", "b"]],
    )
    assert not implies(judged(few).trusted, rule("crate -> hour"))
    assert implies(judged(lucky(3_000, 5)).trusted, rule("crate -> hour"))


def test_equal_blanks_and_a_nearly_constant_dependent_are_no_evidence():
    draw = random.Random(3)
    lines = [[str(place), draw.choice("pqrstuv"), "", "ok" if place else "no"] for place in range(60)]
    lines[0][1] = "w"
    relation = Relation.from_rows(["line_no", "bay", "remark", "state"], lines)
    relation.columns[2].codes[5] = 0
    judgement = judged(relation)
    assert not implies(judgement.trusted, rule("bay -> state"))
    assert not implies(judgement.trusted, rule("bay -> remark"))


def test_a_rule_within_one_group_says_nothing_about_the_next():
    lines = [[str(3000 + place), "Kelder", "R. Dale", str(place * 7 % 23)] for place in range(50)]
    lines += [[str(3100 + place), f"Town {place}", f"Driver {place % 7}", str(place)] for place in range(12)]
    relation = Relation.from_rows(["line_no", "town", "driver", "minutes"], lines)
    judgement = judged(relation)
    (found,) = [one for one in judgement.rules if one.rule == rule("town -> driver")]
    assert found.evidence.tests == 49
    assert found.evidence.bits <= 4.0
    assert not implies(judgement.trusted, rule("town -> driver"))


def test_one_to_one_by_luck_is_no_rule_and_a_code_leads_its_name():
    draw = random.Random(4)
    sites = {
        f"H{place}": (name, f"{120 + 7 * place}") for place, name in enumerate(("Ash", "Elm", "Oak", "Yew"))
    }
    lines = [
        [str(number), code, *sites[code]] for number, code in enumerate(draw.choices(list(sites), k=80), 500)
    ]
    judgement = judged(Relation.from_rows(["visit_no", "site_code", "site_name", "altitude_m"], lines))
    assert implies(judgement.trusted, rule("site_code -> altitude_m"))
    assert rule("altitude_m -> site_code") not in judgement.trusted
    assert judgement.rank("site_code") < judgement.rank("site_name") < judgement.rank("altitude_m")


def test_contacts_serial_numbers_and_details_are_told_from_identifiers():
    lines = [
        [f"{1000 + place}", f"Name {place}", f"0421 {30000 + place}", f"p{place}@post.example", "B1"]
        for place in range(20)
    ]
    names = ["keeper", "keeper_name", "keeper_phone", "mail", "keeper_grade"]
    assert list(judged(Relation.from_rows(names, lines)).uses.values()) == [
        Use.IDENTIFIER,
        Use.TITLE,
        Use.CONTACT,
        Use.CONTACT,
        Use.DETAIL,
    ]


@pytest.mark.parametrize(
    ("tests", "broken", "estimate", "most"), [(0, 0, 0.5, 1.0), (98, 0, 0.01, 0.03), (998, 9, 0.01, 0.018)]
)
def test_the_next_row_breaks_a_rule_with_a_bounded_probability(tests, broken, estimate, most):
    found, bound = held_out(tests, broken)
    assert found == pytest.approx(estimate)
    assert found < bound <= most


def test_luck_is_corrected_for_the_rules_looked_at():
    assert by_luck(10.0, 1) == 2.0**-10
    assert by_luck(10.0, 512) == 0.5
    assert by_luck(3.0, 100) == 1.0


def misspelt():
    """A keeper has one village; one cell is misspelled, one blank, one another village, one from the row above."""
    villages = ["Hazelbank", "Marrow Hill", "Lower Vale", "Stonefield", "Ferny Cross"]
    lines = [[str(place), f"K-{place % 5}", villages[place % 5]] for place in range(200)]
    lines[21][2], lines[47][2], lines[83][2], lines[142][2] = "Marow Hill", "", "Lower Vale", "Hazelbank"
    return Relation.from_rows(["line_no", "keeper_no", "village"], lines)


def test_near_dependencies_name_the_cells_and_how_they_look():
    relation = misspelt()
    (near,) = near_dependencies(relation, judged(relation))
    assert near.rule == dependency(["keeper_no"], "village")
    assert [(cell.row, cell.now, cell.instead, cell.oddity) for cell in near.odd] == [
        (23, "Marow Hill", "Marrow Hill", Oddity.MISSPELLING),
        (49, "", "Lower Vale", Oddity.BLANK),
        (85, "Lower Vale", "Stonefield", Oddity.SHIFT),
        (144, "Hazelbank", "Lower Vale", Oddity.DIFFERENCE),
    ]


def test_a_rejected_near_dependency_is_not_offered_again():
    relation = misspelt()
    judgement = judged(relation, rejected=["keeper_no -> village"])
    assert dependency(["keeper_no"], "village") not in [
        near.rule for near in near_dependencies(relation, judgement)
    ]


@pytest.mark.parametrize("nothing", ["", "NA", "-"])
def test_what_is_measured_in_one_place_only_does_not_tell_the_place(nothing):
    """Residues are measured at one depot: a residue comes again many times, always there, by no law."""
    draw = random.Random(7)
    lines = []
    for number in range(300):
        depot = draw.choice(("Holme", "Brae"))
        lines.append([f"D{number}", depot, str(draw.randrange(25)) if depot == "Holme" else nothing])
    relation = Relation.from_rows(["delivery_no", "depot", "residue"], lines)
    judgement = judged(relation)
    assert not implies(judgement.foundation, rule("residue -> depot"))
