"""Rules for any text: white space, placeholders, garbled accents."""

from __future__ import annotations

import re

from roundcard.clean.rule import LEFT, Around, Rule, Verdict

_NUMBERS = ("phone", "email", "url")
_INVISIBLE = re.compile(
    "[\u200b\u200c\u200d\u200e\u200f\u202a-\u202e\u2060\u2066-\u2069\ufeff\u00ad]"
)
_ODD_SPACES = re.compile("[\u00a0\u1680\u2000-\u200a\u202f\u205f]")
_RUNS = re.compile(r"[ \t]{2,}|\t")
_LINE_ENDS = re.compile(r"[ \t]+(?=\r?\n)|\r\n?")
_NOTHING = re.compile(
    r"[-–—_.?/\\*~ ]{1,6}|\(?(?:n/?a|none|nil|null|unknown|not known|not given|not available|tb[ac]"
    r"|keine?|unbekannt|keine angabe|k\.?\s?a\.?|inconnu|néant|aucun|desconocido|sconosciuto"
    r"|onbekend|geen|okänd|ukjent|ukendt|brak|nieznany|neznámý|não|なし|不明|无|未知)\)?"
    r"|0000-00-00|00[./]00[./]0000|x{3,}|#n/?a!?|#value!|#ref!",
    re.IGNORECASE,
)
_WORDS_ARE_VALUES = ("note", "name/given", "name/family", "custom")
"""Fields in which a word such as "None" may be meant; marks alone mean nothing there either."""
_MARKS = re.compile(r"[-–—_.?/\\*~ ]{1,6}|0000-00-00")
_GARBLED = re.compile("[ÃÂâÐÑÅÄ][\u0080-\u00ff€‚ƒ„…†‡ˆ‰Š‹ŒŽ‘’“”•–—˜™š›œžŸ]|\ufffd")


def white_space(text: str, around: Around) -> Verdict:
    """No space before, behind and doubled; plain spaces; no invisible marks in numbers and
    addresses of mail. Marks inside names and line breaks in notes and addresses are kept."""
    made = _ODD_SPACES.sub(" ", text)
    made = _RUNS.sub(" ", _LINE_ENDS.sub(lambda found: "\n" if "\r" in found[0] else "", made))
    if around.path.startswith(_NUMBERS):
        made = _INVISIBLE.sub("", made)
    made = made.strip(" \t\r\n\ufeff")
    return LEFT if made == text else Verdict(made)


def placeholders(text: str, around: Around) -> Verdict:
    """Values that mean nothing are dropped: "n/a", "-", "unknown", 0000-00-00."""
    shape = _MARKS if around.path.startswith(_WORDS_ARE_VALUES) else _NOTHING
    return Verdict("") if shape.fullmatch(text.strip()) else LEFT


def garbled(text: str, _: Around) -> Verdict:
    """UTF-8 that was read as something else is read right."""
    if text.isascii() or not _GARBLED.search(text):
        return LEFT
    if "\ufffd" in text:
        return Verdict(doubt="characters were given up; the original is needed")
    import ftfy  # noqa: PLC0415  # only where something is garbled

    made = ftfy.fix_encoding(text)
    return LEFT if made == text else Verdict(made)


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
