"""Columns about people that are to be handled with care: health, pay, bank, home, birth, identity.

Told by name in seven languages, by the shape of the values and by check digits. They are pointed out; nothing
is done about them unasked.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from pravix.judgement.standards import IBAN, LUHN, checked_by
from pravix.relation.lexicon import PEOPLE_WORDS, PERSON_WORDS
from pravix.relation.relation import Column, Relation
from pravix.relation.types import Kind, column_type
from pravix.relation.words import words


def _words(*lines: str) -> frozenset[str]:
    return frozenset(word for line in lines for word in line.split())


_NAMES: Mapping[str, frozenset[str]] = {
    "health": _words(
        "diagnosis allergy allergies medication pregnant bloodgroup bloodtype",
        "diagnose allergie medikament medikamente blutgruppe schwanger",
        "diagnostic medicament sanguin diagnostico alergia medicamento diagnosi farmaco medicijn bloedgroep",
    ),
    "pay": _words(
        "salary wage wages payroll gehalt lohn einkommen salaire salario sueldo stipendio paga",
        "salaris loon ordenado vencimento",
    ),
    "bank": _words(
        "iban bic swift bankaccount kontonummer bankverbindung rib bankrekening creditcard sortcode"
    ),
    "birth": _words(
        "birth dob birthday birthdate born geburtsdatum geburtstag geboren naissance nacimiento nascita",
        "nascimento geboorte geboortedatum",
    ),
    "identity": _words(
        "ssn passport socialsecurity personnummer sozialversicherungsnummer ausweis reisepass",
        "personalausweis",
        "passeport insee dni nie pasaporte curp passaporto codicefiscale cpf passaporte bsn paspoort nino",
    ),
    "belief": _words("religion confession konfession ethnicity ethnie etnia geloof"),
}
_OF_PEOPLE = _words(
    "disease illness disability handicap health krankheit behinderung gesundheit maladie sante enfermedad",
    "discapacidad salud malattia disabilita salute doenca deficiencia saude ziekte gezondheid",
)
"""Words for health where a sheet is about people; elsewhere they are about trees or boats."""

_TOGETHER: Mapping[str, Sequence[frozenset[str]]] = {
    "home": (
        _words("home private domicile wohn privat domicilio residence residencia morada woon"),
        _words("address street adresse anschrift strasse rue calle direccion indirizzo via rua adres straat"),
    ),
    "bank": (
        _words("bank credit"),
        _words("account card number no konto compte cuenta conto conta rekening"),
    ),
    "health": (_words("blood health medical"), _words("group type condition insurance history problem note")),
    "identity": (_words("tax national identity social steuer"), _words("id number no code security nummer")),
}
_GLUED = {
    "wohnadresse": "home", "privatadresse": "home", "homeaddress": "home", "domicile": "home",
    "woonadres": "home",
}  # fmt: skip
_SHAPES: Mapping[str, re.Pattern[str]] = {
    "identity": re.compile(r"\d{3}-\d{2}-\d{4}|[A-Z]{6}\d\d[A-EHLMPRST]\d\d[A-Z]\d{3}[A-Z]"),
}
_LETTERS = "TRWAGMYFPDXBNJZSQVHLCKE"
_SPANISH = re.compile(r"(\d{8})([A-Z])")
_FEWEST = 10


@dataclass(frozen=True)
class Sensitive:
    """A column to be handled with care: of what ``kind`` it is, and ``why`` that is thought."""

    column: str
    kind: str
    why: str


def sensitive_columns(relation: Relation) -> tuple[Sensitive, ...]:
    """Return the columns that are to be handled with care, in order. Linear in the values."""
    people = any((PERSON_WORDS | PEOPLE_WORDS) & set(words(name)) for name in relation.names)
    found = (_sensitive(column, people) for column in relation.columns)
    return tuple(one for one in found if one is not None)


def _sensitive(column: Column, people: bool) -> Sensitive | None:
    told = set(words(column.name))
    glued = "".join(words(column.name))
    for kind, known in _NAMES.items():
        if told & known or glued in known:
            return Sensitive(column.name, kind, "by its name")
    if people and told & _OF_PEOPLE:
        return Sensitive(column.name, "health", "by its name")
    for kind, (one, other) in _TOGETHER.items():
        if told & one and told & other and (people or kind != "health"):
            return Sensitive(column.name, kind, "by its name")
    if glued in _GLUED:
        return Sensitive(column.name, _GLUED[glued], "by its name")
    return _by_values(column)


def _by_values(column: Column) -> Sensitive | None:
    values = column.present_values
    if len(values) < _FEWEST or column_type(column).kind is Kind.DATE:
        return None
    if checked_by(values, IBAN):
        return Sensitive(column.name, "bank", "all its values are IBANs, by their check digits")
    if all(13 <= len(value) <= 19 for value in values) and checked_by(values, LUHN):
        return Sensitive(column.name, "bank", "all its values have the check digit of a payment card")
    for kind, shape in _SHAPES.items():
        if all(map(shape.fullmatch, values)):
            return Sensitive(column.name, kind, "all its values are written like an identity number")
    if all(map(_spanish, values)):
        return Sensitive(
            column.name, "identity", "all its values have the check letter of an identity number"
        )
    return None


def _spanish(value: str) -> bool:
    match = _SPANISH.fullmatch(value)
    return match is not None and _LETTERS[int(match[1]) % len(_LETTERS)] == match[2]


def told_of(found: Collection[Sensitive]) -> str:
    """Return kinds and reasons of some columns, as one text."""
    return "; ".join(f"{one.column} ({one.kind}: {one.why})" for one in found)
