"""Words for no value, as the analyst meets them."""


def test_survey_finds_the_words_and_the_ledger_keeps_the_wish(pravix, tmp_path):
    lines = [f"D{n},depot {n % 5},{'NA' if n % 7 == 0 else n},{('NA', 'DK', '-')[n % 3]}" for n in range(60)]
    (tmp_path / "flat.csv").write_text("\n".join(["delivery,depot,kg,country", *lines, ""]), encoding="utf-8")
    found = pravix("survey", "flat.csv", "--json").document["findings"]
    assert [one["told"] for one in found if one["topic"] == "no value"] == [
        "NA stands in kg (9 rows), where all else are numbers: --blank kg=NA reads it as a blank",
        "- stands in country (20 rows): --blank - reads it as a blank",
    ]
    blanks = pravix("survey", "flat.csv", "--blank", "kg=NA", "--json").document["columns"]
    assert [one["blanks"] for one in blanks] == [0, 0, 9, 0]
    assert pravix("repair", "flat.csv", "--blank", "kg=NA").status == 0
    ledger = (tmp_path / "flat.ledger.toml").read_text(encoding="utf-8")
    assert 'blank = ["kg=NA"]' in ledger
    again = pravix("survey", "flat.csv", "--json").document["columns"]
    assert [one["blanks"] for one in again] == [0, 0, 9, 0]
