"""The written form of a dependency: what people type comes back as it was meant."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pravix.theory.dependency import (
    DependencyTextError,
    dependency,
    parse_dependencies,
    written_dependency,
    written_in_order,
    written_name,
)


def test_several_dependents_give_several_dependencies():
    assert parse_dependencies("drum_no -> honey, tare") == (
        dependency(["drum_no"], "honey"),
        dependency(["drum_no"], "tare"),
    )


def test_spaces_inside_a_name_stay_and_those_around_it_go():
    assert parse_dependencies("  net  weight ,b->c d ") == (dependency(["net  weight", "b"], "c d"),)


def test_an_empty_determinant_means_a_constant():
    assert parse_dependencies("-> season") == (dependency([], "season"),)


def test_both_arrows_are_read():
    assert parse_dependencies("a → b") == parse_dependencies("a->b")


@pytest.mark.parametrize(
    ("name", "written"),
    [
        ("drum no", "drum no"),
        ("net, kg", '"net, kg"'),
        ("a -> b", '"a -> b"'),
        ('the "good" one', '"the ""good"" one"'),
        (" led", '" led"'),
        ("", '""'),
        ("a-b", "a-b"),
    ],
)
def test_a_name_is_quoted_only_where_it_must_be(name, written):
    assert written_name(name) == written


@pytest.mark.parametrize(
    ("text", "complaint"),
    [
        ("a, b", "no arrow"),
        ("a -> b -> c", "more than one arrow"),
        ("a, -> b", "missing before the arrow"),
        ("a ->", "missing at the end"),
        (", a -> b", "missing before a comma"),
        ('"a -> b', "quote is left open"),
        ('"a" b -> c', "comma is missing"),
    ],
)
def test_what_cannot_be_read_is_told(text, complaint):
    with pytest.raises(DependencyTextError, match=complaint):
        parse_dependencies(text)


@given(st.lists(st.text(max_size=8), max_size=3), st.lists(st.text(max_size=8), min_size=1, max_size=3))
def test_written_and_read_again_any_names_survive(left, right):
    text = written_dependency(left, right)
    assert parse_dependencies(text) == tuple(dependency(left, name) for name in right)


def test_the_order_of_the_header_is_kept():
    assert written_in_order(dependency(["b", "a"], "c"), ["b", "x", "a", "c"]) == "b, a -> c"
