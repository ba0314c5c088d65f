"""Rules for any text: white space, placeholders, garbled accents."""

from __future__ import annotations

import html
import re
import unicodedata
from collections.abc import Collection, Sequence
from functools import lru_cache

from roundcard.clean.rule import LEFT, Around, Rule, Verdict

_NUMBERS = ("phone", "email", "url")
_INVISIBLE = re.compile(
    "[\u200b\u200c\u200d\u200e\u200f\u202a-\u202e\u2060\u2066-\u2069\ufeff\u00ad]"
)
_ODD_SPACES = re.compile("[\u00a0\u1680\u2000-\u200a\u202f\u205f]")
_AT_ENDS = " \t\r\n\v\f\ufeff\u200b\u3000\u0085"
_RUNS = re.compile(r"[ \t]{2,}|\t")
_LINE_ENDS = re.compile(r"(?<![ \t])(?:[ \t]++(?=\r?\n)|[ \t]*+\r(?!\n))")
_NOTHING = frozenset(
    ("n/a", "na", "none", "nil", "null", "unknown", "not known", "not given", "not available",
     "tba", "tbc", "kein", "keine", "unbekannt", "keine angabe", "nicht bekannt",
     "ninguno", "ninguna", "nessuna", "aucune", "nada", "k.a.", "k. a.", "k.a", "ka",
     "inconnu", "néant", "aucun", "desconocido", "sconosciuto", "onbekend", "geen", "okänd",
     "ukjent", "ukendt", "not supplied", "not provided", "not specified", "not stated", "no data",
     "n. a.", "n.a.", "n.v.t.", "nvt", "s/d", "sin datos", "non renseigné", "non disponible",
     "nessuno", "sem dados", "ei tietoa", "nincs adat", "не указано", "нет", "(blank)", "brak",
     "nieznany", "neznámý", "não", "なし", "不明", "无", "未知", "xxx", "xxxx", "#na", "#n/a",
     "#n/a!",
     "#value!", "#ref!", "00.00.0000", "00/00/0000", "0000-00-00", "0000/00/00", "0000.00.00")
)  # fmt: skip
_LONGEST_NOTHING = max(map(len, _NOTHING)) + 2
_WORDS_ARE_VALUES = ("note", "name/given", "name/family", "nickname", "custom")
"""Fields in which a word such as "None" may be meant; marks alone mean nothing there either."""
_MARKS = re.compile(r"[-–—_.?/\\*~ ]{1,6}")
_DROPPED = Verdict("")
_ENTITY = re.compile(r"&(?:[a-zA-Z]{2,8}|#\d{2,5}|#x[0-9a-fA-F]{2,4});")
_ENCODED_WORD = re.compile(r"=\?[\w-]{3,20}\?[bqBQ]\?[^?\s]+\?=")
_ESCAPED = re.compile(r"\\u([0-9a-fA-F]{4})")
_QUOTED = re.compile(r"(?:=[C-F][0-9A-F](?:=[89AB][0-9A-F]){1,3})+")
_PERCENT = re.compile(r"(?:%[c-fC-F][0-9a-fA-F](?:%[89abAB][0-9a-fA-F]){1,3})+")
_READ_AS = ("windows-1250", "windows-1251", "cp437", "cp850", "cp852", "mac_roman", "windows-1253",
            "windows-1254", "koi8-r")  # fmt: skip
_FOREIGN_RUN = re.compile(r"[^\x00-\x7f]+")
_WITHIN = re.compile(r"(?<=[a-z])[^\x00-\x7f]")
_LAST_LETTER = "\u0530"
"""Behind the letters of Latin, Greek and Cyrillic."""
_PHONETIC = range(0x250, 0x2B0)
"""Signs that write sounds: nobody's name."""
_MOST_DRESSES = 4
_LONG_WORD = 4
_CYRILLIC = re.compile(r"[\u0400-\u04ff\s.,'-]+")
_BOHEMIAN = re.compile(r"[øùè][aeiouyáéíóúý]\w*ov[áa]\b|\w*ov[áa]\b.*[øùèìò]\w|[øùè]ák\b|\bJiø")
_FIGURES = dict.fromkeys(map(ord, "0123456789"))
_DRESSED = re.compile(r"&[a-zA-Z#]|=\?|=[C-F]|\\u|%[c-fC-F]")
"""How ASCII begins that stands for other letters."""
_MARKS_OF_DRESS = "&=\\%"
_LONE_LETTERS = re.compile(
    r"[^ -~ÀÁÄ-Öá-çéêëí-ñó-öú-ÿØ-ßĀ-ž]|[^ -~äöü][^ -~]|[äöü](?!ß(?:[ -~]|$))[^ -~]"
)
"""What is not found where each letter beyond ASCII is a usual one that stands alone (or a German ß
behind its vowel): neither the octets of UTF-8 nor the vowels of another alphabet ever do."""
_BROKEN_SPACE = re.compile("[ÃÂÐÑÎÏ]\u00a0")
_GARBLED = re.compile("[ÃÂâÐÑÅÄ][\u0080-\u00ff€‚ƒ„…†‡ˆ‰Š‹ŒŽ‘’“”•–—˜™š›œžŸ]|\ufffd")


def white_space(text: str, around: Around) -> Verdict:
    """No space before, behind and doubled; plain spaces; no invisible marks in numbers and
    addresses of mail. Marks inside names and line breaks in notes and addresses are kept."""
    if text.isprintable() and "  " not in text and text[:1] != " " and text[-1:] != " ":
        return LEFT  # no white space but single spaces, and nothing invisible
    made = _INVISIBLE.sub("", text) if around.path.startswith(_NUMBERS) else text
    if not _BROKEN_SPACE.search(made):  # half of a letter that is garbled
        made = _ODD_SPACES.sub(" ", made)
    made = _RUNS.sub(" ", _LINE_ENDS.sub(lambda found: "\n" if "\r" in found[0] else "", made))
    made = made.strip(_AT_ENDS)
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
    word = said.strip("()[]<>").casefold()
    if word not in _NOTHING:
        return LEFT
    meant = around.path.startswith(_WORDS_ARE_VALUES) and word.replace(" ", "").isalpha()
    return LEFT if meant or around.path == "note" else _DROPPED


def ordinary(text: str) -> bool:
    """Whether none of the rules for any text can have anything to say of a text."""
    return (
        text.isascii()
        and text.isprintable()
        and not _DRESSED.search(text)
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
        and not (any(map(joined.__contains__, _MARKS_OF_DRESS)) and _DRESSED.search(joined))
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


def odd_ones(texts: Sequence[str]) -> Sequence[int]:
    """The places of the texts that are not ordinary, nor empty."""
    if "".join(texts).isascii():
        plain, odd = list(filter(None, texts)), []
    else:
        plain = [text for text in texts if text and text.isascii()]
        odd = [n for n, text in enumerate(texts) if not text.isascii()]
    if not plain or all_ordinary(plain):
        return odd
    return [n for n, text in enumerate(texts) if text and not ordinary(text)]


def garbled(text: str, around: Around) -> Verdict:
    """Text that was read in another character set than its own, or left in the dress of a page, a
    message or a program, is read right; what only the original could tell is reported. A text may
    wear several dresses, one over the other: each is taken off, and one that never comes to an end
    is left as it stands."""
    verdict = _one_dress(text, around.path)
    if verdict.text is None:
        return verdict
    for _ in range(_MOST_DRESSES):
        next_one = _one_dress(verdict.text, around.path)
        if next_one.text is None:
            return verdict
        verdict = next_one
    return Verdict(doubt="garbled more than once; only the original file can restore it")


def _one_dress(text: str, path: str) -> Verdict:
    if text.isascii():
        return _undressed(text, path)
    if not _LONE_LETTERS.search(text):
        return LEFT
    # figures are the same in every set, and without them many texts are the same
    letters = text.translate(_FIGURES)
    if letters != text and _regarbled(letters) is LEFT:
        return LEFT
    return _regarbled(text)


@lru_cache(maxsize=16_384)
def _regarbled(text: str) -> Verdict:
    if "\ufffd" in text:
        return Verdict(doubt="some characters are lost; only the original file can restore them")
    from ftfy import badness, fix_encoding  # only where something may be garbled

    made = fix_encoding(text) if badness.is_bad(text) else text
    if made == text:
        made = _of_utf8(text)
    if made != text:
        return Verdict(made)
    if _GARBLED.search(text):
        try:
            meant = text.encode("windows-1252").decode("utf-8")
        except UnicodeError:
            return LEFT
        return Verdict(doubt=f"perhaps garbled: '{meant}' meant?")
    if meant := _of_one_byte(text):
        return Verdict(doubt=f"perhaps garbled: '{meant}' meant?")
    return LEFT


def _of_utf8(text: str) -> str:
    """A text whose letters are, in one of some character sets, the octets of UTF-8; the text itself
    where they are not: letters that stand there by chance hardly ever are."""
    odd = _FOREIGN_RUN.findall(text)
    if (
        len(odd) < 2
        and all(char.isalpha() for run in odd for char in run)
        and not (any(char.isupper() for char in "".join(_WITHIN.findall(text))))
    ):
        return text  # a letter or two that may well stand there
    for wrong in _READ_AS:
        try:
            made = text.encode(wrong).decode("utf-8")
        except UnicodeError:
            continue
        fresh = set(made) - set(text)
        if fresh and all(map(_in_a_name, fresh)):
            return made
    return text


def _in_a_name(char: str) -> bool:
    return char.isalpha() and char < _LAST_LETTER and ord(char) not in _PHONETIC


def _of_one_byte(text: str) -> str:
    """What a text may say in another character set of one byte a letter; empty where it says what
    it says."""
    try:
        octets = text.encode("windows-1252")
    except UnicodeError:
        return ""
    for word in text.split():
        letters = [char for char in word if char.isalpha()]
        if len(letters) >= _LONG_WORD and not any(char.isascii() for char in letters):
            meant = octets.decode("windows-1251", "replace")
            return meant if _CYRILLIC.fullmatch(meant) else ""
    if _BOHEMIAN.search(text):
        meant = octets.decode("windows-1250", "replace")
        return meant if meant != text and "\ufffd" not in meant else ""
    return ""


def _undressed(text: str, path: str) -> Verdict:
    """ASCII that stands for other letters: entities of HTML, octets in hexadecimal digits (RFC
    2045 section 6.7, RFC 3986 section 2.1), words of headers (RFC 2047), escapes of programs."""
    made = text
    if "&" in made and _ENTITY.search(made):
        made = unicodedata.normalize("NFC", html.unescape(made))
    if "=?" in made and _ENCODED_WORD.search(made):
        made = _of_header(made)
    if "\\" in made and _ESCAPED.search(made):
        made = _ESCAPED.sub(lambda found: chr(int(found[1], 16)), made)
    if not path.startswith(("url", "email")):
        if "=" in made and _QUOTED.search(made):
            made = _from_octets(made, _QUOTED)
        if "%" in made and _PERCENT.search(made):
            made = unicodedata.normalize("NFC", _from_octets(made, _PERCENT))
    return LEFT if made == text or not made.isprintable() else Verdict(made)


def _of_header(text: str) -> str:
    from email.errors import HeaderParseError
    from email.header import decode_header, make_header

    try:
        return str(make_header(decode_header(text)))
    except (HeaderParseError, UnicodeError, LookupError, ValueError):
        return text


def _from_octets(text: str, runs: re.Pattern[str]) -> str:
    """Runs of octets as the letters that they are in UTF-8; those that are none stay."""

    def one(found: re.Match[str]) -> str:
        octets = bytes.fromhex(re.sub("[^0-9A-Fa-f]", "", found[0]))
        try:
            said = octets.decode("utf-8")
        except UnicodeDecodeError:
            return found[0]
        return said if said.isprintable() and not said.isascii() else found[0]

    return runs.sub(one, text)


RULES = (
    Rule("garbled", (), "UTF-8 that was read as something else is read right",
         (("name/full", "RenÃ© LefÃ¨vre", "René Lefèvre"), ("name/full", "Ãlvaro", "Ãlvaro"),
          ("name/full", "São Paulo", "São Paulo"), ("name/family", "K&ouml;hler", "Köhler")),
         garbled),
    Rule("white-space", (), "no space before, behind or doubled; no invisible marks in numbers",
         (("name/full", " Ada  Weir ", "Ada Weir"), ("phone", "01632\u00a0960\u200b001",
                                                    "01632 960001")), white_space),
    Rule("placeholders", (), "values that mean nothing are dropped",
         (("phone", "n/a", ""), ("name/family", "None", "None"), ("title", "-", "")),
         placeholders),
)  # fmt: skip
