"""Standard lists and check digits that the values of a column may follow."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Collection, Mapping
from functools import cache
from importlib.resources import files

_BETWEEN_UNITS = re.compile(r"[/·*]")
_DIGITS = re.compile(r"\d{8,19}")
_IBAN = re.compile(r"[A-Z]{2}\d{2}[A-Z0-9]{10,30}")
_SHIP = re.compile(r"\d{7}")
LUHN, ARTICLE, IBAN, SHIP = "ISO/IEC 7812", "GS1", "ISO 13616", "IMO"
_ARTICLE_LENGTHS = (8, 12, 13, 14)
_FEWEST_CHECKED = 10
"""Values from which passing a check digit is no accident: one number in ten passes by luck."""


@cache
def _lists() -> Mapping[str, frozenset[str]]:
    found = json.loads(files(__package__).joinpath("code_lists.json").read_text(encoding="utf-8"))
    return {
        name: frozenset(text.split("|") if "|" in text else text.split())
        for name, text in found.items()
        if name != "source"
    }


def share_of(values: Collection[str], name: str) -> float:
    """Return the share of values that stand in a list.

    The lists are countries, currencies, languages, units, zones, country names, months and days.
    """
    known = _lists()[name]
    return sum(map(_TESTS.get(name, _plain), values, [known] * len(values))) / max(1, len(values))


def _plain(value: str, known: frozenset[str]) -> bool:
    return value in known


def _any_case(value: str, known: frozenset[str]) -> bool:
    return value.strip(".").casefold() in known


def _unit(value: str, known: frozenset[str]) -> bool:
    return all(part in known for part in _BETWEEN_UNITS.split(value))


_TESTS: Mapping[str, Callable[[str, frozenset[str]], bool]] = {
    "country names": _any_case,
    "months and days": _any_case,
    "units": _unit,
}


def checked(values: Collection[str]) -> bool:
    """Whether all of many values carry a check digit of one standard.

    ISO/IEC 7812 (Luhn), GS1 article numbers, ISO 13616 (IBAN) and the numbers of the International Maritime
    Organization.
    """
    return any(checked_by(values, standard) for standard in _STANDARDS)


def checked_by(values: Collection[str], standard: str) -> bool:
    """Whether all of many values carry the check digit of a standard."""
    return len(values) >= _FEWEST_CHECKED and all(map(_STANDARDS[standard], values))


def _luhn(value: str) -> bool:
    if not _DIGITS.fullmatch(value):
        return False
    doubled = (int(digit) * (1 + place % 2) for place, digit in enumerate(reversed(value)))
    return sum(number - 9 if number > 9 else number for number in doubled) % 10 == 0


def _article(value: str) -> bool:
    if not value.isdecimal() or len(value) not in _ARTICLE_LENGTHS:
        return False
    return sum(int(digit) * (1 + place % 2 * 2) for place, digit in enumerate(reversed(value))) % 10 == 0


def _iban(value: str) -> bool:
    packed = value.replace(" ", "")
    if not _IBAN.fullmatch(packed):
        return False
    return int("".join(str(int(mark, 36)) for mark in packed[4:] + packed[:4])) % 97 == 1


def _ship(value: str) -> bool:
    if not _SHIP.fullmatch(value):
        return False
    return sum(int(digit) * (7 - place) for place, digit in enumerate(value[:6])) % 10 == int(value[6])


_STANDARDS: Mapping[str, Callable[[str], bool]] = {LUHN: _luhn, ARTICLE: _article, IBAN: _iban, SHIP: _ship}
