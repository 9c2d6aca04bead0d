"""Write the standard lists that column values are compared with: ``judgement/code_lists.json``.

    python -m pip install babel pint tzdata && python tools/make_code_lists.py

Codes and names of countries, currencies and languages, and the names of months and weekdays, in the seven
languages of the lexicon, come from the Unicode CLDR as packaged by Babel (Unicode licence v3); the time zones
from the IANA database as packaged by tzdata (public domain); the symbols of units from Pint (BSD licence).
"""

from __future__ import annotations

import json
from importlib.resources import files
from pathlib import Path

import pint
from babel import Locale
from babel.core import get_global

_LANGUAGES = "en de fr es it pt nl".split()
_PREFIXES = ("", "k", "c", "d", "m", "u", "µ", "n", "h", "M", "G")
_SHORT = 6
_TARGET = Path(__file__).resolve().parent.parent / "src" / "pravix" / "judgement" / "code_lists.json"


def _territories() -> tuple[set[str], set[str]]:
    alpha_2 = {code for code in Locale("en").territories if len(code) == 2 and code.isalpha()}
    three = get_global("territory_aliases").items()
    alpha_3 = {code for code, now in three if len(code) == 3 and code.isalpha() and set(now) <= alpha_2}
    return alpha_2, alpha_3


def _months_and_days() -> set[str]:
    found: set[str] = set()
    for language in _LANGUAGES:
        locale = Locale(language)
        for calendar in (locale.months, locale.days):
            for width in ("wide", "abbreviated"):
                found.update(name.strip(".").casefold() for name in calendar["format"][width].values())
    return found


def _units() -> set[str]:
    registry = pint.UnitRegistry()
    symbols = {str(registry.get_symbol(name)) for name in registry._units if name}
    short = {symbol for symbol in symbols if symbol and len(symbol) <= _SHORT and " " not in symbol}
    metric = ("m", "g", "s", "l", "W", "V", "A", "Hz", "Pa", "J", "N", "Wh", "t", "ha", "S", "mol")
    return short | {prefix + unit for prefix in _PREFIXES for unit in metric}


def main() -> None:
    """Write the file."""
    alpha_2, alpha_3 = _territories()
    english = Locale("en")
    names = {
        Locale(language).territories[code].casefold()
        for language in _LANGUAGES
        for code in alpha_2
        if code in Locale(language).territories
    }
    zones = files("tzdata").joinpath("zones").read_text(encoding="utf-8").split()
    lists = {
        "source": "Unicode CLDR (Unicode licence v3), IANA time zones (public domain), Pint (BSD licence)",
        "countries": " ".join(sorted(alpha_2 | alpha_3)),
        "currencies": " ".join(sorted(english.currencies)),
        "languages": " ".join(sorted(code for code in english.languages if len(code) in (2, 3))),
        "units": " ".join(sorted(_units())),
        "zones": " ".join(zones),
        "country names": "|".join(sorted(names)),
        "months and days": "|".join(sorted(_months_and_days())),
    }
    _TARGET.write_text(json.dumps(lists, ensure_ascii=False, indent=1) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
