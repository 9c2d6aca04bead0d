"""Words of column names by what they say of a column, in seven languages, small letters without accents.

English, German, French, Spanish, Italian, Portuguese and Dutch, with the usual abbreviations.
"""

from __future__ import annotations


def _words(*lines: str) -> frozenset[str]:
    return frozenset(word for line in lines for word in line.split())


IDENTIFIER_WORDS = _words(
    "id no nr num number code cd key ref serial plate abb abbr symbol tag ident identifier nummer kennung",
    "kennzeichen schluessel kuerzel kz numero cle matricule sigle codigo clave matricula sigla codice",
    "chiave chave sleutel kenteken volgnummer",
    "iso alpha iata icao fips imo vin ean gtin isbn nuts lei uuid",
)
LABEL_WORDS = _words(
    "name nm title label description descr desc bezeichnung titel beschreibung nom libelle titre nombre",
    "titulo descripcion nome titolo descrizione denominazione designacao descricao naam omschrijving",
    "benaming",
)
CONTACT_WORDS = _words(
    "phone telephone tel mobile fax email mail telefon handy telefono telefone telefoon courriel correo",
)
MEASURE_WORDS = _words(
    "kg g t mg l ml cl m cm mm km ha pct percent eur usd gbp chf qty quantity amount weight price cost",
    "total sum count hours hrs minutes age length height width depth size area volume score rate value",
    "temp temperature population attendance distance viewers capacity speed duration delay altitude",
    "elevation salary wage income revenue sales budget share ratio points balance fee tax discount menge",
    "betrag gewicht preis kosten anzahl summe stunden minuten alter laenge hoehe breite tiefe flaeche",
    "wert einwohner zuschauer entfernung dauer gehalt umsatz anteil punkte temperatur geschwindigkeit",
    "quantite montant poids prix cout nombre somme heures longueur hauteur largeur surface valeur duree",
    "salaire taux cantidad importe peso precio coste suma horas longitud altura anchura superficie valor",
    "poblacion distancia duracion salario edad tasa quantita importo prezzo costo somma ore lunghezza",
    "altezza larghezza valore popolazione distanza durata stipendio quantidade montante preco custo",
    "comprimento largura populacao duracao idade hoeveelheid bedrag prijs aantal som uren lengte hoogte",
    "breedte diepte oppervlakte waarde bevolking afstand duur leeftijd snelheid",
)
COUNT_WORDS = _words(
    "qty quantity amount count hours number total units pieces menge anzahl summe stunden quantite somme",
    "heures cantidad suma horas quantita somma ore quantidade hoeveelheid aantal uren value wert valeur",
    "valor valore",
)
"""Words that say how much, and not of what."""

PERIOD_WORDS = _words(
    "year month season quarter week term semester decade century jahr monat saison quartal woche jahrgang",
    "annee mois trimestre semaine ano anio mes temporada semana anno mese stagione settimana jaar maand",
    "seizoen kwartaal",
)
DAY_WORDS = _words("day tag jour dia giorno dag")
HOUR_WORDS = _words("hour stunde heure hora ora uur minute minuto minuut")
CLOCK_WORDS = HOUR_WORDS | _words("time zeit uhrzeit tijd")
CALENDAR = (
    _words("year jahr annee ano anio anno jaar"),
    _words("month monat mois mes mese maand"),
    DAY_WORDS,
    HOUR_WORDS,
)
"""What the parts of a date are called, the coarsest first."""
MOMENT_WORDS = _words(
    "on at date day time when timestamp datum tag zeit uhrzeit jour heure fecha dia hora data giorno ora",
    "dag tijd",
)
PLACE_WORDS = _words(
    "place city town village county country state region province district ward street address hometown",
    "capital continent harbour port station zone area stadt ort dorf land kreis bezirk strasse",
    "hauptstadt hafen bahnhof ville pays rue departement commune quartier gare ciudad pueblo pais calle",
    "provincia barrio puerto citta paese via comune quartiere cidade rua bairro distrito plaats straat",
    "provincie gemeente",
)
CATEGORY_WORDS = _words(
    "type kind class category group status state level grade role sort colour color size method result",
    "outcome form gender sex severity condition quality art klasse kategorie gruppe zustand stufe farbe",
    "groesse geschlecht genre classe categorie groupe statut etat niveau couleur taille sexe tipo clase",
    "categoria grupo estado nivel tamano sexo colore stato livello cor soort groep toestand kleur maat",
    "geslacht",
)
FLAG_WORDS = _words(
    "is has was active valid flag checked paid seen urgent aktiv gueltig geprueft bezahlt est actif",
    "valide paye activo valido pagado attivo pagato ativo pago actief geldig betaald",
)
COORDINATE_WORDS = _words(
    "lat latitude lon long lng longitude northing easting ra dec breite laenge breitengrad laengengrad",
    "latitud longitud latitudine longitudine breedtegraad lengtegraad",
)
REMARK_WORDS = _words(
    "note notes remark remarks comment comments memo cmt summary text observation bemerkung bemerkungen",
    "notiz anmerkung kommentar remarque remarques commentaire nota notas comentario observaciones",
    "osservazioni commento observacoes opmerking opmerkingen",
)
POSTAL_WORDS = _words(
    "postcode postcd pstc zip zipcode zipcd postal plz postleitzahl cap cep npa codigopostal codepostal",
    "cpostal",
)
"""Words for postal codes, which lie in one town or region as a rule, and not by law."""

WIDER_WORDS = _words(
    "zone region area district province state county country continent sector division group territory",
    "land gebiet bezirk kreis bundesland gruppe pays departement secteur groupe pais provincia zona",
    "paese settore gruppo distrito setor grupo gebied provincie groep regione regiao",
)
"""Words for what other things lie in or belong to."""

PERSON_WORDS = _words(
    "person owner keeper driver inspector producer author operator pilot captain skipper helm holder worker",
    "warden guide surveyor contact leader chief head supplier grower maker agent officer besitzer halter",
    "fahrer",
    "pruefer erzeuger kapitaen lieferant leiter proprietaire conducteur producteur capitaine fournisseur",
    "responsable dueno conductor productor capitan proveedor propietario autista produttore capitano",
    "fornitore",
    "dono condutor produtor capitao eigenaar bestuurder producent kapitein leverancier",
)
"""Words for what people are to a thing: the thing has one, and a person may have several things."""

PEOPLE_WORDS = _words(
    "employee member patient staff people tenant volunteer translator technician engineer tech teacher nurse",
    "mitarbeiter mitglied personal uebersetzer techniker ingenieur membre employe salarie traducteur",
    "technicien empleado miembro paciente traductor tecnico dipendente socio paziente traduttore",
    "empregado membro tradutor werknemer lid vertaler monteur",
)
"""Further words for people, in whatever function."""

REGISTERED_WORDS = _words(
    "iban imo vin isbn issn mmsi licence license registration registered transponder chassis callsign",
    "microchip ringno kennzeichen fahrgestell zulassung immatriculation plaque matricula bastidor targa",
    "telaio kenteken chassisnummer",
)
"""Words for what an authority gave out once for each thing in the world."""

GLUED = ("number", "nummer", "numero", "code", "num", "key", "no", "nr", "id", "cd")
"""Endings that identify even where they are glued to the word before them: tailnum, custid."""
