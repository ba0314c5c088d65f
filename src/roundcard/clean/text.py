"""Rules for any text: white space, placeholders, garbled accents."""

from __future__ import annotations

import re
from collections.abc import Collection

from roundcard.clean.rule import LEFT, Around, Rule, Verdict

_NUMBERS = ("phone", "email", "url")
_INVISIBLE = re.compile(
    "[\u200b\u200c\u200d\u200e\u200f\u202a-\u202e\u2060\u2066-\u2069\ufeff\u00ad]"
)
_ODD_SPACES = re.compile("[\u00a0\u1680\u2000-\u200a\u202f\u205f]")
_RUNS = re.compile(r"[ \t]{2,}|\t")
_LINE_ENDS = re.compile(r"(?<![ \t])(?:[ \t]++(?=\r?\n)|[ \t]*+\r(?!\n))")
_NOTHING = frozenset(
    ("n/a", "na", "none", "nil", "null", "unknown", "not known", "not given", "not available",
     "tba", "tbc", "kein", "keine", "unbekannt", "keine angabe", "k.a.", "k. a.", "k.a", "ka",
     "inconnu", "néant", "aucun", "desconocido", "sconosciuto", "onbekend", "geen", "okänd",
     "ukjent", "ukendt", "brak", "nieznany", "neznámý", "não", "なし", "不明", "无", "未知", "xxx",
     "xxxx", "#na", "#n/a", "#n/a!", "#value!", "#ref!", "00.00.0000", "00/00/0000",
     "0000-00-00", "0000/00/00", "0000.00.00")
)  # fmt: skip
_LONGEST_NOTHING = max(map(len, _NOTHING)) + 2
_WORDS_ARE_VALUES = ("note", "name/given", "name/family", "custom")
"""Fields in which a word such as "None" may be meant; marks alone mean nothing there either."""
_MARKS = re.compile(r"[-–—_.?/\\*~ ]{1,6}")
_DROPPED = Verdict("")
_GARBLED = re.compile("[ÃÂâÐÑÅÄ][\u0080-\u00ff€‚ƒ„…†‡ˆ‰Š‹ŒŽ‘’“”•–—˜™š›œžŸ]|\ufffd")


def white_space(text: str, around: Around) -> Verdict:
    """No space before, behind and doubled; plain spaces; no invisible marks in numbers and
    addresses of mail. Marks inside names and line breaks in notes and addresses are kept."""
    if text.isprintable() and "  " not in text and text[:1] != " " and text[-1:] != " ":
        return LEFT  # no white space but single spaces, and nothing invisible
    made = _INVISIBLE.sub("", text) if around.path.startswith(_NUMBERS) else text
    made = _ODD_SPACES.sub(" ", made)
    made = _RUNS.sub(" ", _LINE_ENDS.sub(lambda found: "\n" if "\r" in found[0] else "", made))
    made = made.strip(" \t\r\n\ufeff")
    return LEFT if made == text else Verdict(made)


def placeholders(text: str, around: Around) -> Verdict:
    """Values that mean nothing are dropped: "n/a", "-", "unknown", 0000-00-00."""
    if len(text) > _LONGEST_NOTHING:
        return LEFT
    said = text.strip()
    if not said[:1].isalpha() and _MARKS.fullmatch(said):
        return _DROPPED
    if said == "NA" and around.path == "address/country":
        return Verdict(doubt="nothing, or the code of Namibia?")
    if said.strip("()").casefold() not in _NOTHING or around.path.startswith(_WORDS_ARE_VALUES):
        return LEFT
    return _DROPPED


def ordinary(text: str) -> bool:
    """Whether none of the rules for any text can have anything to say of a text."""
    return (
        text.isascii()
        and text.isprintable()
        and text[0] != " "
        and text[-1] != " "
        and "  " not in text
        and (
            len(text) > _LONGEST_NOTHING or (text[0].isalnum() and text.casefold() not in _NOTHING)
        )
    )


def all_ordinary(texts: Collection[str]) -> bool:
    """Whether all texts are ordinary, asked of all at once; False where that is not so easily
    told."""
    joined = "\n".join(texts)
    return (
        joined.isascii()
        and joined.replace("\n", "").isprintable()
        and joined.count("\n") == len(texts) - 1
        and "  " not in joined
        and "\n " not in joined
        and " \n" not in joined
        and joined[:1] != " "
        and joined[-1:] != " "
        and (
            min(map(len, texts)) > _LONGEST_NOTHING
            or (
                "".join([text[0] for text in texts]).isalnum()
                and _NOTHING.isdisjoint(map(str.casefold, texts))
            )
        )
    )


def garbled(text: str, _: Around) -> Verdict:
    """UTF-8 that was read as something else is read right."""
    if text.isascii() or not _GARBLED.search(text):
        return LEFT
    if "\ufffd" in text:
        return Verdict(doubt="some characters are lost; only the original file can restore them")
    import ftfy  # only where something is garbled

    made = ftfy.fix_encoding(text)
    if made != text:
        return Verdict(made)
    try:
        meant = text.encode("windows-1252").decode("utf-8")
    except UnicodeError:
        return LEFT
    return Verdict(doubt=f"perhaps garbled: '{meant}' meant?")


RULES = (
    Rule("garbled", (), "UTF-8 that was read as something else is read right",
         (("name/full", "RenÃ© LefÃ¨vre", "René Lefèvre"), ("name/full", "Ãlvaro", "Ãlvaro"),
          ("name/full", "São Paulo", "São Paulo")), garbled),
    Rule("white-space", (), "no space before, behind or doubled; no invisible marks in numbers",
         (("name/full", " Ada  Weir ", "Ada Weir"), ("phone", "01632\u00a0960\u200b001",
                                                    "01632 960001")), white_space),
    Rule("placeholders", (), "values that mean nothing are dropped",
         (("phone", "n/a", ""), ("name/family", "None", "None"), ("title", "-", "")),
         placeholders),
)  # fmt: skip
