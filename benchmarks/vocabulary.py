"""The words and values of the made-up schemas: ferries, turbines, glaciers, looms and the like."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date, timedelta
from random import Random

Maker = Callable[[Random, int], str]
"""Makes one value; the number says which instance of its thing it is for."""

_SYLLABLES = "ba dor fen gil har ka len mor nes o pra ri sto tal u ven wick yar zel bru".split()
_GIVEN = (
    "Ada Bram Cleo Dirk Edda Finn Gesa Hugo Ida Jorn Kaja Lars Mira Nils Oda Piet Rika Sven Tilda".split()
)


def proper_name(rng: Random, number: int) -> str:
    """A made-up proper name of one or two words."""
    words = ["".join(rng.choices(_SYLLABLES, k=rng.randint(2, 3))).capitalize()]
    if rng.random() < 0.3:
        words.append(rng.choice(("North", "Old", "Hill", "Bridge", "Works", "East")))
    return " ".join(words)


def person(rng: Random, number: int) -> str:
    """A made-up name of a person."""
    return f"{rng.choice(_GIVEN)} {''.join(rng.choices(_SYLLABLES, k=3)).capitalize()}"


def code_maker(rng: Random, long: bool = False) -> Maker:
    """Return a maker of codes of one format, chosen once."""
    form = rng.choice(("letters and number", "running", "number", "letters"))
    prefix = "".join(rng.choices("ABCDEFGHKLMNPRSTUVW", k=rng.randint(1, 2)))
    digits = 5 if long else rng.randint(3, 4)
    start = rng.choice((0, 100, 4000))
    if form == "letters and number" or (long and form == "letters"):
        return lambda rng, number: f"{prefix}{rng.randrange(10**digits):0{digits}d}"
    if form == "running":
        return lambda rng, number: str(start + number)
    if form == "number":
        return lambda rng, number: str(rng.randrange(10 ** (digits - 1), 10**digits))
    return lambda rng, number: "".join(rng.choices("ABCDEFGHKLMNPRSTUVW", k=3))


def _one_of(words: str) -> Maker:
    values = words.split()
    weights = [1 / place for place in range(1, len(values) + 1)]
    return lambda rng, number: rng.choices(values, weights)[0]


def _whole(low: int, high: int, step: int = 1) -> Maker:
    return lambda rng, number: str(rng.randrange(low, high + 1, step))


def _decimal(low: float, high: float, places: int = 1) -> Maker:
    return lambda rng, number: f"{rng.uniform(low, high):.{places}f}"


def _day(first: str, days: int) -> Maker:
    start = date.fromisoformat(first)
    return lambda rng, number: (start + timedelta(rng.randrange(days))).isoformat()


def _time(rng: Random, number: int) -> str:
    return f"{rng.randint(6, 20):02d}:{rng.choice((0, 15, 30, 45)):02d}"


def _phone(rng: Random, number: int) -> str:
    return f"0{rng.randint(30, 99)} {rng.randint(10000, 99999)}"


def _sometimes(maker: Maker, share: float) -> Maker:
    """Return a maker that leaves the cell blank but for a share of the rows."""
    return lambda rng, number: maker(rng, number) if rng.random() < share else ""


def _remark(rng: Random, number: int) -> str:
    words = "late wet gate closed repaired again please check cable loose behind the shed second try".split()
    return " ".join(rng.choices(words, k=rng.randint(2, 8)))


_TOWNS: Sequence[str] = tuple(proper_name(Random(number), number) for number in range(40))


def _town(rng: Random, number: int) -> str:
    return _TOWNS[int(len(_TOWNS) * rng.random() ** 1.5)]


DESCRIPTIONS: dict[str, dict[str, Maker]] = {
    "place": {
        "town": _town,
        "region": _one_of("North South East West Centre"),
        "altitude_m": _whole(0, 2400, 10),
        "opened_on": _day("1960-01-01", 20_000),
        "surface": _one_of("gravel asphalt grass"),
        "staffed": _one_of("yes no"),
    },
    "machine": {
        "maker": _one_of("Ostra Helmo Kvint Dareko Lumen"),
        "built": _whole(1975, 2024),
        "power_kw": _whole(10, 900, 10),
        "fuel": _one_of("diesel electric gas"),
        "length_m": _decimal(4, 60),
        "inspected": _one_of("yes no"),
    },
    "person": {
        "phone": _phone,
        "town": _town,
        "grade": _one_of("B1 B2 A1 C3"),
        "since": _day("2001-01-01", 8_000),
        "email": lambda rng, number: f"{''.join(rng.choices(_SYLLABLES, k=3))}{number}@post.example",
    },
    "body": {
        "city": _town,
        "country": _one_of("NO DK SE FI IS"),
        "founded": _whole(1890, 2015),
        "phone": _phone,
        "legal_form": _one_of("club trust council company"),
    },
    "kind": {
        "colour": _one_of("red green blue grey white"),
        "max_load_kg": _whole(50, 4000, 50),
        "price": _decimal(2, 90, 2),
        "unit": _one_of("kg m piece l"),
        "family": _one_of("light heavy mixed"),
    },
    "rate": {"price": _decimal(2, 400, 2), "discount": _whole(0, 40, 5), "notice_days": _whole(1, 60)},
    "day": {"day": _day("2024-01-01", 360)},
}
"""What may be told of each sort of thing."""

THINGS = {
    "station": "place", "pier": "place", "plot": "place", "valley": "place", "site": "place",
    "vessel": "machine", "turbine": "machine", "loom": "machine", "crane": "machine", "pump": "machine",
    "pilot": "person", "warden": "person", "surveyor": "person", "guide": "person",
    "operator": "body", "council": "body", "laboratory": "body", "union": "body",
    "material": "kind", "tariff": "kind", "pattern": "kind", "hazard": "kind", "species": "kind",
}  # fmt: skip
"""The nouns, each with its sort."""

EVENTS: dict[str, dict[str, Maker]] = {
    "crossing": {
        "date": _day("2024-03-01", 300),
        "departure": _time,
        "passengers": _whole(0, 240),
        "weather": _one_of("calm windy rough"),
        "status": _one_of("done done done done cancelled"),
        "remark": _sometimes(_remark, 0.3),
    },
    "sample": {
        "taken_on": _day("2024-01-01", 200),
        "depth_cm": _whole(0, 300, 5),
        "ph": _decimal(4, 9),
        "method": _one_of("core grab net"),
        "repeated": _one_of("no yes"),
        "moisture_pct": _decimal(2, 70),
        "remark": _sometimes(_remark, 0.2),
    },
    "repair": {
        "date": _day("2023-06-01", 500),
        "hours": _decimal(0.5, 30),
        "cost": _decimal(20, 4000, 2),
        "urgent": _one_of("no yes"),
        "cause": _one_of("wear storm age unknown"),
        "currency": _one_of("EUR"),
        "signed_by": _sometimes(person, 0.8),
    },
    "measurement": {
        "time": _time,
        "value": _decimal(0, 900, 2),
        "quality": _one_of("good good fair poor"),
        "wind_ms": _decimal(0, 25),
        "checked": _sometimes(_one_of("yes"), 0.1),
        "unit": _one_of("mm"),
    },
    "shift": {
        "date": _day("2024-01-01", 120),
        "begin": _time,
        "minutes": _whole(30, 600, 15),
        "crew": _whole(1, 9),
        "pay": _decimal(40, 300, 2),
        "note": _sometimes(_remark, 0.25),
    },
}
"""What happens, and what is told of it."""

ROLES = {
    **dict.fromkeys("town region city maker".split(), "name"),
    **dict.fromkeys("surface fuel grade legal_form colour family".split(), "category"),
    **dict.fromkeys("weather status method cause currency quality".split(), "category"),
    **dict.fromkeys(
        "altitude_m power_kw length_m max_load_kg price discount notice_days".split(), "quantity"
    ),
    **dict.fromkeys(
        "passengers depth_cm ph moisture_pct hours cost value wind_ms minutes crew pay".split(), "quantity"
    ),
    **dict.fromkeys(
        "opened_on built since founded day date on departure taken_on time begin".split(), "time"
    ),
    **dict.fromkeys("year month".split(), "time"),
    **dict.fromkeys("staffed inspected repeated urgent checked".split(), "flag"),
    **dict.fromkeys("phone email".split(), "contact"),
    **dict.fromkeys("remark note".split(), "free text"),
    "signed_by": "name",
}
"""What is told by each word; what is not among them identifies."""


def _language(words: str) -> dict[str, str]:
    english = _ENGLISH.split()
    return dict(zip(english, words.split(), strict=True))


_ENGLISH = (
    "no id code name date day year month price unit colour status value cost station vessel pilot "
    "material site machine operator first second from to weather quality time hours remark town "
    "region crossing sample repair measurement shift"
)
WORDS_IN = {
    "German": _language(
        "nr id code name datum tag jahr monat preis einheit farbe status wert kosten station schiff "
        "lotse material standort maschine betreiber erste zweite von nach wetter qualitaet zeit stunden "
        "bemerkung ort region ueberfahrt probe reparatur messung schicht"
    ),
    "French": _language(
        "numero id code nom date jour annee mois prix unite couleur statut valeur cout station navire "
        "pilote matiere site machine exploitant premier second de vers temps qualite heure heures "
        "remarque ville region traversee echantillon reparation mesure poste"
    ),
    "Spanish": _language(
        "numero id codigo nombre fecha dia ano mes precio unidad color estado valor coste estacion buque "
        "piloto material sitio maquina operador primero segundo de a clima calidad hora horas nota "
        "pueblo region cruce muestra reparacion medicion turno"
    ),
    "Italian": _language(
        "numero id codice nome data giorno anno mese prezzo unita colore stato valore costo stazione "
        "nave pilota materiale sito macchina operatore primo secondo da verso meteo qualita ora ore nota "
        "paese regione traversata campione riparazione misura turno"
    ),
    "Portuguese": _language(
        "numero id codigo nome data dia ano mes preco unidade cor estado valor custo estacao navio "
        "piloto material local maquina operador primeiro segundo de para tempo qualidade hora horas nota "
        "cidade regiao travessia amostra reparo medida turno"
    ),
    "Dutch": _language(
        "nummer id code naam datum dag jaar maand prijs eenheid kleur status waarde kosten station schip "
        "loods materiaal plaats machine uitbater eerste tweede van naar weer kwaliteit tijd uren "
        "opmerking dorp regio overtocht monster herstel meting dienst"
    ),
}
"""What the commonest words of names are in six languages."""
