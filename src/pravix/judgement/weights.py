"""Every weight and threshold of the judgement, in bits (binary logarithms of odds) unless it says otherwise.

Nothing else in this package holds a number that decides what is believed, but for the weights of the roles of
columns (``role_weights``). Those under *fitted* come from
``tools/fit_judgement.py``; the others were set by hand and are checked by ``benchmarks/judgement.py``.
"""

from __future__ import annotations

from collections.abc import Mapping

from pravix.judgement.use import Use

BELIEVED_FROM = 3.75
"""From where a rule is believed."""

WEIGHED_TO = 4
"""Columns in the largest determinant that is weighed; larger ones are doubtful unless implied."""

EVIDENCE_CAP = 40.0
"""The most that the rows can say for one rule."""

ONE_VALUE_TELLS = 4.0
"""The most that the rows with one value of the determinant can say, in bits."""

MOST_EXCEPTIONS = 0.05
"""The share of the tests that may break a rule which holds but for a few rows, ..."""

FEW_EXCEPTIONS = 10
"""... and so many, or if they are more ..."""

FEW_IN_ALL = 0.005
"""... this share of the tests."""

IN_DETERMINANT: Mapping[Use, float] = {
    Use.IDENTIFIER: 1.0,
    Use.LABEL: 0.0,
    Use.TITLE: -1.0,
    Use.DETAIL: -3.0,
    Use.SERIAL: -3.0,
    Use.CONTACT: -6.0,
    Use.MOMENT: -4.0,
    Use.PERIOD: -4.0,
    Use.NUMBER: -9.0,
    Use.MARK: -9.0,
    Use.MEASURE: -50.0,
    Use.PROSE: -50.0,
}
"""How likely a column of a kind is to be part of what decides others."""

NOTHING_IDENTIFIES = -50.0
"""For a determinant of dates, periods, measures and prose alone."""

SELDOM = 2.0
"""How many times the price of few repetitions counts for what people call things."""

OFTEN = 0.25
"""The share of observations that must repeat a value for a known thing to say nothing against it."""

KNOWN_THING = 2.0
"""For a determinant that is known to identify something, in the place of choice and kind."""

HALF_BACK = -12.0
"""For a dependent that decides a part of its determinant: the rest only tells namesakes apart."""

UNTESTED = -50.0
"""For a determinant of which no value comes again."""

BACK = -1.0
"""For a rule that leads back from a name to its code, one to one."""

EACH_FURTHER_COLUMN = -4.0
"""For each column of a determinant after the first."""

SHARED_NOUN = 6.0
"""Where the noun of the determinant stands in the dependent's name."""

ANOTHER_NOUN = -4.0
"""Where the dependent's name begins with the noun of something else."""

MANY_VALUES = 15
"""Values from which a code that goes one to one with a name is another name of the same thing."""

NEARLY_UNIQUE = 0.99
"""The share of different values from which a combination determines everything and means nothing."""

KEY: Mapping[str, float] = {
    "identifier": -1.61,
    "name": -4.43,
    "category": -1.78,
    "quantity": -14.55,
    "time": -4.67,
    "flag": -12.00,
    "contact": -12.00,
    "coordinate": -14.00,
    "free text": -15.00,
    "detail": -4.89,
    "alone": 2.71,
    "a time alone": -5.30,
    "columns": 0.50,
    "described": -0.73,
    "surprise": 0.64,
    "none of them": -7.77,
}
"""What identifies a row, by term: for each column in a role (the parts of a date are one), for each whose
name says that it describes something else, for one column alone, for a time alone, for each of several, for
each that another column decides, and for each doubling of the pairs of rows that would agree by luck; and
that none of the unique combinations does; fitted."""

CHANCE_CAP = 12.0
"""The most doublings that count."""

HARDLY = 0.003
"""The probability below which a combination is not offered as what may identify a row."""

GOOD_ROW_KEY = -13.0
"""From where a key is good enough not to look for a larger one."""

CLEARLY_GIVEN_OUT = 0.7
"""The probability of being given out from which whole numbers are taken for identifiers."""

CLEARLY_MEASURED = 0.8
"""The probability of being counted or measured from which whole numbers are taken for measures."""

CLEARLY_NO_THING = 0.5
"""The probability from which words are taken for what identifies nothing: free text, a contact, a flag."""

REFERENCE: Mapping[Use, float] = {
    Use.IDENTIFIER: 2.0,
    Use.PERIOD: 4.0,
    Use.SERIAL: 4.5,
    Use.LABEL: 5.0,
    Use.MOMENT: 5.0,
    Use.TITLE: 6.0,
    Use.NUMBER: 6.0,
    Use.DETAIL: 8.0,
    Use.CONTACT: 12.0,
    Use.MARK: 12.0,
    Use.MEASURE: 25.0,
    Use.PROSE: 25.0,
}
"""How late a column of a kind is chosen to refer by."""

LIKE_A_CODE = 1.9
"""The same for a word or an identifier that looks like a code."""

A_PERSON = 0.6
"""How much later what people are to a thing is chosen to refer by than other names."""

A_WIDER_THING = 0.3
"""How much later a name of what others belong to, a zone or a region, is chosen to refer by."""

A_CODE = 2.5
"""The rank below which a column is as good as a code to refer by."""

EACH_PLACE = 1e-6
"""What tells columns apart that are equally fit to refer by: their places by content."""

EACH_WORD = 0.01
"""The price of each word in the name of a column to refer by."""

EXCHANGED_FROM = 0.6
"""The probability of being wrong from which a design without a rule, or with one, is tried."""

BETTER_BY = 0.7
"""How much better another design must be than the first, in natural logarithms of probability."""

FURTHER_DECISIONS = 0.4
"""How much the decisions about a table count after the least sure one: they are seldom wrong one by one."""

TOGETHER = (0.6, 1.1)
"""What turns the product of a table's decisions into its probability, in logarithms of odds: a shift and a
slope; fitted on the tables of real cases and of made-up schemas."""

SURE_FROM = 0.95
"""The probability from which a table is called sure; nothing is asked about it."""

LIKELY_FROM = 0.7
"""The probability from which a table is called likely."""

WORTH_A_LOOK = 0.02
"""The probability of being wrong from which a rule is a decision."""

BEYOND_DOUBT = 0.98
"""The probability from which a decision is not asked about, even where others make its table unsure."""

MOST_CHOICES = 5
"""The most answers that are offered to one question."""

MOST_QUESTIONS = 6
"""The most questions that are asked about one file, answered ones included."""

MISTAKEN = 0.3
"""The probability that a rule with a few exceptions is one, where most of them look like mistakes."""

NOT_MISTAKEN = 0.02
"""The same where they do not."""

NO_ROW_KEY = 0.7
"""The probability that a file without any usable key has none."""

TWIN_CODES = 0.97
"""The probability that of two codes for one thing the one that leads will do."""

TWIN_BY_RANK = 0.5
"""Where two columns identify one thing: the difference in rank below which either may lead."""

LONE_LAW_OF_NAMES = 2.0
"""The most that can speak for a rule by which a name decides one other thing and nothing else, in natural
logarithms of odds; by hand, so that it is asked about however often it held."""

PERHAPS_MEASURED = 0.3
"""The probability of being counted or measured from which what a column decides is never sure."""

AGAINST_ITS_KIND_FROM = 30.0
"""The bits from which what came again with a measure or a time, and is not explained, is asked about."""

AGAINST_ITS_KIND = -0.4
"""For a rule with so many bits, in natural logarithms of odds; by hand: no case has one, and of the ten
columns of that kind in public data sets that were looked at when it was set, four led to laws."""

SELDOM_SO_ORDERED = 7.0
"""The bits from which luck does not order the values of two columns alike."""

NAME_THAT_CHANGES = -5.0
"""For a name that decides its code where the code has several names, in natural logarithms of odds; by hand:
most such names change in time, and belong to the code at a time."""

SHORT_SPAN = 15
"""Days within which the moments of a file lie for what goes together in it to be luck more often."""

OVER_A_SHORT_SPAN = -2.5
"""For a rule that leads on to another thing where the rows cover a short span, in natural logarithms of odds;
by hand: too few of the cases have dates."""

LAW: Mapping[str, float] = {
    "any": 1.65,
    "bits": 0.87,
    "bits above 25": -0.14,
    "bits below 0": 1.75,
    "tests": 0.25,
    "values": -0.25,
    "columns": -2.60,
    "columns of a known thing": -0.22,
    "seldom seen again": 0.28,
    "by identifiers": 0.81,
    "by codes": -0.03,
    "by a name": -0.43,
    "by a category": 0.14,
    "by a detail": -1.44,
    "by a title": -0.66,
    "by a quantity": -0.06,
    "by a time": -0.25,
    "by no thing": -2.17,
    "shared noun": 0.71,
    "another's noun": -1.06,
    "back": -0.50,
    "back, values": 0.61,
    "known thing": -0.24,
    "more told": 0.13,
    "more told by a name": 0.10,
    "of an identifier": -0.93,
    "of a name": -0.36,
    "of a category": -0.51,
    "of a quantity": 1.34,
    "of a time": -0.01,
    "of a text": -0.05,
    "leads on, often seen": -0.40,
    "one to one": 0.38,
    "one to one, another noun": -0.37,
    "few values": -0.15,
}
"""The weight of each term of ``law.Laws``, in natural logarithms of odds; fitted."""

LINK: Mapping[str, float] = {
    "believed from": 5.0,
    "speaking": 8.0,
    "doubtful from": -8.0,
    "values cap": 16.0,
    "word bits": 4.0,
    "same name": 6.0,
    "names the table": 6.0,
    "shared noun": 2.0,
    "unrelated": -9.0,
    "generic name": -4.0,
    "unfit": -40.0,
    "keyed here": -2.0,
    "orphans": -2.0,
    "each orphan share": -40.0,
}
"""What speaks for one column referring to another, in bits, by term; by hand. The cap is the most that values
can say; a link is ``believed from`` so many bits, and told as doubtful from so many where the values are
``speaking``."""

SAMENESS: Mapping[str, float] = {
    "values cap": 16.0,
    "chance of a word": 1 / 16,
    "same words": 6.0,
    "shared noun": 2.0,
    "nameless": -4.0,
    "second key": -3.0,
    "unrelated": -9.0,
    "agreeing fact": 4.0,
    "fact of the name": 2.0,
    "a wonder": 2.0,
    "facts cap": 12.0,
    "nothing in common": -4.0,
    "other shape": -8.0,
    "contradicting fact": -4.0,
    "other names": -20.0,
    "by values from": 16.0,
    "least common": 3,
    "mostly": 0.5,
    "nearly": 0.9,
}
"""What speaks for two tables being about one kind of thing, in bits, by term; by hand. ``chance of a word``
is the probability that two texts agree by luck; ``mostly`` and ``nearly`` are shares of the common things."""
