"""What the cells of a column say for and against a field."""

from __future__ import annotations

from typing import NamedTuple

from roundcard.card.paths import FieldPath
from roundcard.layouts.drafting.profile import ColumnProfile

_MAIL = ("email", "emails", "named email")
_TEL = ("phone", "phones")
_WEB = ("url",)
_DATE = ("date", "moment", "worded date")
_COUNT = ("number", "decimal")
_CODE = ("code", "uuid", "iban")
_FLAG = ("yes-no",)
_TEXT = ("sentence", "long")
_WORDS = ("single", "title case", "few words", "person", "given", "org", "job", "initials")
_NO_NAME = (*_MAIL, *_TEL, *_WEB, *_DATE, *_COUNT, "digits", *_CODE, *_FLAG, "address",
            "coordinates", "data", "picture", "street", "post code", "scientific")  # fmt: skip
_NO_WORD = (*_MAIL, *_TEL, *_WEB, *_DATE, "coordinates", "data", "uuid", "iban", *_FLAG)


class Fitting(NamedTuple):
    """Kinds of cells that speak for a field, and against it."""

    agree: tuple[str, ...]
    against: tuple[str, ...]


_NOBODY = Fitting((), ())
_FITTING: dict[str, Fitting] = {
    "email": Fitting(_MAIL, (*_TEL, *_WEB, *_DATE, *_COUNT, "digits", *_CODE, *_FLAG, *_TEXT,
                             *_WORDS, "street", "address", "country", "gender", "post code",
                             "prefix", "use", "language")),
    "phone": Fitting((*_TEL, "digits", "post code or phone", "scientific"),
                     (*_MAIL, *_WEB, *_DATE, "decimal", *_FLAG, *_TEXT, *_WORDS, "address",
                      "country", "gender", "prefix", "use", "uuid", "iban", "code and town",
                      "street", "language", "picture")),
    "phone/extension": Fitting(("number",), (*_MAIL, *_WEB, *_DATE, *_WORDS)),
    "url": Fitting(_WEB, (*_MAIL, *_TEL, *_DATE, *_COUNT, "digits", *_CODE, *_FLAG, *_TEXT,
                          "address", "street", "person", "given", "initials", "post code")),
    "chat": Fitting(("handle",), (*_DATE, *_FLAG, "address")),
    "social": Fitting(("handle", *_WEB), (*_DATE, *_FLAG, "address")),
    "date": Fitting(_DATE, (*_MAIL, *_TEL, *_WEB, "decimal", *_FLAG, *_TEXT, *_WORDS, "address",
                            "street", "country", "gender", "prefix", "use", "post code",
                            "language")),
    "date part": Fitting(("number",), (*_MAIL, *_TEL, *_WEB, *_TEXT, "address", "street", *_DATE)),
    "name/full": Fitting(("person", "person, comma", "title case", "few words"),
                         (*_NO_NAME, "gender", "country", "prefix", *_TEXT)),
    "name/given": Fitting(("given", "single", "title case", "initials", "person"),
                          (*_NO_NAME, "gender", "country", "person, comma", "org", "prefix",
                           *_TEXT)),
    "name/family": Fitting(("single", "title case", "given", "few words"),
                           (*_NO_NAME, "gender", "person, comma", *_TEXT)),
    "name/additional": Fitting(("given", "single", "title case", "initials", "person"),
                               (*_NO_NAME, *_TEXT)),
    "name/prefix": Fitting(("prefix",), (*_NO_NAME, "job", "org", *_TEXT, "country", "person",
                                         "person, comma")),
    "name/suffix": Fitting(("suffix", "initials"), (*_NO_NAME, *_TEXT, "person", "prefix")),
    "nickname": Fitting(("single", "given", "title case"), (*_NO_WORD, "address", *_TEXT)),
    "org": Fitting(("org",), (*_NO_WORD, *_COUNT, "digits", "gender", "prefix", *_TEXT,
                              "address")),
    "org/unit": Fitting((), (*_NO_WORD, "gender", "prefix", "address", *_TEXT)),
    "title": Fitting(("job",), (*_NO_WORD, *_COUNT, "digits", "gender", "prefix", "address",
                                "post code", "country", "street", "code", "given", "person")),
    "role": Fitting(("job",), (*_NO_WORD, "gender", "prefix", "address")),
    "address/full": Fitting(("address", "street"), (*_NO_WORD, *_COUNT, "digits", "gender",
                                                   "person", "prefix")),
    "address/street": Fitting(("street", "address"),
                              (*_NO_WORD, "decimal", "gender", "country", "prefix", "digits",
                               "code and town", "given", "person", "person, comma")),
    "address/number": Fitting(("number", "code"), (*_MAIL, *_TEL, *_WEB, *_DATE, *_TEXT, "street",
                                                  "address", *_WORDS[:-1])),
    "address/extra": Fitting((), (*_MAIL, *_TEL, *_WEB, *_DATE, "uuid", "iban")),
    "address/locality": Fitting(("single", "title case"),
                                (*_NO_WORD, *_COUNT, "digits", "gender", "prefix", "address",
                                 "code and town", "post code", *_TEXT)),
    "address/region": Fitting(("single", "title case", "initials"),
                              (*_NO_WORD, *_COUNT, "digits", "gender", "prefix", "address",
                               *_TEXT)),
    "address/postcode": Fitting(("post code", "number", "post code or phone"),
                                (*_MAIL, *_WEB, *_DATE, *_FLAG, *_TEXT, *_WORDS, "address",
                                 "street", "country", "gender", "code and town", "decimal")),
    "address/country": Fitting(("country",), (*_MAIL, *_TEL, *_WEB, *_DATE, *_COUNT, "digits",
                                              "gender", "prefix", "address", "street", *_TEXT)),
    "note": Fitting((*_TEXT, "few words"), ()),
    "category": Fitting((), (*_MAIL, *_TEL, *_WEB, *_DATE, "address", "long")),
    "photo": Fitting(("picture", "data", "url"), (*_MAIL, *_TEL, *_DATE, *_COUNT, *_FLAG,
                                                  *_TEXT, *_WORDS)),
    "gender": Fitting(("gender",), (*_NO_WORD[:-1], *_COUNT, "digits", "prefix", "address",
                                    "street", *_TEXT, "given", "person")),
    "language": Fitting(("language", "country"), (*_MAIL, *_TEL, *_WEB, *_DATE, *_COUNT, "digits",
                                                  "address", "street", "person", *_TEXT)),
    "timezone": Fitting((), (*_MAIL, *_TEL, *_WEB, *_DATE)),
    "geo": Fitting(("coordinates",), (*_MAIL, *_TEL, *_WEB, *_DATE, *_WORDS)),
    "related": Fitting(("person", "given", "single", "title case", "person, comma"),
                       (*_MAIL, *_TEL, *_WEB, *_DATE, *_COUNT, "digits", *_FLAG, "address",
                        "street", "use")),
    "uid": Fitting(("uuid", "code"), (*_MAIL, *_TEL, *_DATE, *_TEXT)),
    "use": Fitting(("use",), (*_MAIL, *_TEL, *_DATE, *_COUNT, "digits", *_TEXT, "address")),
    "preferred": Fitting(_FLAG, (*_MAIL, *_TEL, *_DATE, *_TEXT)),
    "code and town": Fitting(("code and town",), (*_NO_WORD, "street", "person")),
}  # fmt: skip

_CAPITALS = ("address/region", "address/locality", "name/family", "name/given")
"""Fields whose values begin with capitals where a script has them."""
_MOSTLY = 0.8

_CLASSES = {
    "birthday": "date", "anniversary": "date", "revised": "date", "address/pobox": "address/extra",
    "address/extended": "address/extra", "address/line": "address/street", "pronouns": "nickname",
    "name/family2": "name/family", "name/phonetic-given": "nickname",
    "name/phonetic-family": "nickname", "name/generation": "name/suffix",
}  # fmt: skip

KINDS_SAID = {
    "email": "e-mail addresses", "emails": "several e-mail addresses", "phone": "phone numbers",
    "phones": "several phone numbers", "named email": "e-mail addresses with names",
    "digits": "digits alone", "url": "web addresses", "date": "dates", "moment": "dates and times",
    "worded date": "dates in words", "number": "numbers", "decimal": "amounts",
    "scientific": "numbers in scientific notation", "uuid": "identifiers", "iban": "bank accounts",
    "coordinates": "coordinates", "data": "encoded data", "picture": "pictures",
    "post code": "post codes", "post code or phone": "post codes", "code": "codes",
    "handle": "handles", "words": "words", "mixed": "mixed text", "long": "long texts",
    "yes-no": "yes or no", "gender": "genders", "prefix": "forms of address", "suffix": "suffixes",
    "use": "words for uses", "country": "countries", "language": "languages",
    "given": "given names", "person": "whole names", "person, comma": "names, family name first",
    "street": "streets", "address": "whole addresses", "code and town": "post codes and towns",
    "org": "organisations", "job": "positions", "initials": "initials", "single": "single words",
    "title case": "names of something", "sentence": "sentences", "few words": "a few words",
    "none": "placeholders",
}  # fmt: skip
"""What people call cells of a kind."""


def class_of(path: FieldPath) -> str:
    """The row of the table of evidence that speaks of a path."""
    if path.part == "use":
        return "use"
    if path.part == "preferred":
        return "preferred"
    if path.part in ("day", "month", "year"):
        return "date part"
    if path.part == "line" and path.number > 1:
        return "address/extra"
    key = f"{path.field}/{path.part}" if path.part else path.field
    return _CLASSES.get(key, key)


def for_and_against(row: str, profile: ColumnProfile) -> tuple[float, float]:
    """The shares of cells that speak for a class of fields, and against it; both 0 to 1."""
    fitting = _FITTING.get(row, _NOBODY)
    agree, against = profile.share(*fitting.agree), profile.share(*fitting.against)
    if row == "phone" and (short := profile.share("number")):
        long_enough = sum(n for size, n in profile.numbers.items() if size >= 5)
        either = max(sum(profile.numbers.values()), 1)
        agree += short * long_enough / either
        against += short * (1 - long_enough / either)
    if row == "address/postcode":
        agree += _bare_codes(profile)
    if row == "address/region" and profile.longest == 1:
        against += profile.share("initials", "yes-no")  # a letter is a mark of something else
    if row == "date" and profile.share("number") > 0.5:
        years = profile.numbers[4] / max(sum(profile.numbers.values()), 1)
        agree += profile.share("number") * years * 0.6
    if row in _CAPITALS and profile.small >= _MOSTLY:
        against = max(against, profile.small)  # places are written with capitals
        agree = min(agree, 1 - profile.small)
    if row == "related" and profile.share("yes-no") > 0.5:
        against = 1.0
    return min(agree, 1.0), min(against, 1.0)


def _bare_codes(profile: ColumnProfile) -> float:
    """Numbers of six, seven or nine digits, as the post codes of some countries are."""
    sizes = profile.numbers
    told = max(sum(sizes.values()), 1)
    return profile.share("digits", "phone") * (sizes[6] + sizes[7] + sizes[9]) / told


class Identified(NamedTuple):
    """What cells alone say a column is."""

    row: str
    """A class of fields."""
    path: str
    """Where it would go."""
    sure: float


_NAMES_IN_MAIL = 0.3
_FEW, _OF_FEW = 3, 0.72
_BY_KIND: tuple[tuple[tuple[str, ...], str, str, float], ...] = (
    (_MAIL, "email", "email", 0.97),
    (_TEL, "phone", "phone", 0.93),
    (("url",), "url", "url", 0.9),
    (("coordinates",), "geo", "geo", 0.85),
    (("person", "person, comma"), "name/full", "name/full", 0.9),
    (("given",), "name/given", "name/given", 0.88),
    (("prefix",), "name/prefix", "name/prefix", 0.86),
    (("address",), "address/full", "address/full", 0.85),
    (("street",), "address/street", "address/street", 0.84),
    (("country",), "address/country", "address/country", 0.85),
    (("org",), "org", "org", 0.78),
    (("job",), "title", "title", 0.76),
    (("gender",), "gender", "gender", 0.72),
    (("picture", "data"), "photo", "photo", 0.8),
    (_TEXT, "note", "note", 0.72),
    (("language",), "language", "language", 0.7),
    (("code and town",), "code and town", "address/full", 0.8),
)


def identified(profile: ColumnProfile) -> list[Identified]:
    """What the cells of a column alone say it is, the surest first."""
    found: list[Identified] = []
    if profile.told == 0:
        return found
    for kinds, row, path, sure in _BY_KIND:
        share = profile.share(*kinds)
        if row == "email":
            pass
        elif row == "name/full":
            worded = profile.share("title case") + 0.5 * profile.share("few words")
            if profile.in_mail >= _NAMES_IN_MAIL:
                share += worded
            elif share > 0.2:
                share += 0.7 * worded
        elif row == "name/given":
            share += 0.7 * profile.share("single") if share > 0.25 else 0.0
        elif row == "phone":
            share += profile.share("digits") if share > 0.2 else _zeroed(profile)
        elif row == "address/street":
            share += profile.share("address") if share > 0.3 else 0.0
        if share >= 0.5:
            if profile.told < _FEW and row not in ("email", "phone", "url"):
                sure *= _OF_FEW  # a word or two may be anything
            found.append(Identified(row, path, sure * min(share + 0.1, 1.0)))
    codes = profile.share("post code")
    if codes >= 0.6:
        found.append(Identified("address/postcode", "address/postcode", 0.76 * codes))
    if (sure := _birthdays(profile)) > 0:
        found.append(Identified("date", "birthday", sure))
    return sorted(found, key=lambda each: -each.sure)


def _zeroed(profile: ColumnProfile) -> float:
    """Digits alone that begin with a zero, nine to eleven of them: numbers that are dialled."""
    sizes = profile.numbers
    told = max(sum(sizes.values()), 1)
    dialled = (sizes[9] + sizes[10] + sizes[11]) / told
    zeros = profile.leading_zeros / told
    return profile.share("digits") * dialled * (0.9 if zeros > 0.5 else 0.0)


def _birthdays(profile: ColumnProfile) -> float:
    """Whether dates spread as people's birthdays do: over decades, and not into this one."""
    years = profile.years
    told = sum(years.values())
    if profile.share(*_DATE) < 0.7 or told < 5:
        return 0.0
    old = sum(count for decade, count in years.items() if 191 <= decade <= 201)
    early = sum(count for decade, count in years.items() if 192 <= decade <= 199)
    if old / told > 0.95 and len(years) >= 3 and early / told > 0.6 and profile.differing > 0.4:
        return 0.78
    return 0.0


def most_usual(profile: ColumnProfile) -> tuple[str, float]:
    """The most usual kind of cell, and its share."""
    kinds = [(kind, count) for kind, count in profile.kinds.most_common(3) if kind != "none"]
    if not kinds or not profile.told:
        return "", 0.0
    return kinds[0][0], kinds[0][1] / profile.told
