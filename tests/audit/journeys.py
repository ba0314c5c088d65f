"""Cards with everything that the standards allow, on their way through other formats and home.

The cards are made here, and read here when they come home: nothing of the package has a part in
it. A property is what it is called, its texts, and what its parameters say.
"""

from __future__ import annotations

import random
import re
from collections import Counter
from collections.abc import Iterator

Prop = tuple[str, tuple[str, ...], frozenset[str]]

TEXTS = [
    "Ada", "O'Culvert", "a, b; c", "back\\slash", "two\nlines", "tab\there", "Zoë Müßig",
    "\u5c71\u7530 \u82b1\u5b50", "\u0645\u0631\u062d\u0628\u0627", "e\u0301 combining",
    "emoji \U0001f6a3", "line\u2028sep", "next\u0085line", "colon: yes", 'quote "x"', "caret ^n ^^",
    "\\n literal", "=41 equals", "a" * 90, "é" * 60, " lead", "x\\,y", "BEGIN:VCARD", "END:VCARD",
    "#hash", "%41", "<b>&amp;",
]  # fmt: skip
STRUCTURED = {"N": 5, "ADR": 7, "ORG": 0}
LISTS = {"CATEGORIES", "NICKNAME"}
DATES = {"3.0": ["1980-04-12", "1980-04-12T10:15:00Z"],
         "4.0": ["19800412", "--0412", "1980-04", "1980", "---12", "T1015", "19800412T101500Z",
                 "19800412T1015+0130"]}  # fmt: skip
OF_40 = ["ANNIVERSARY", "DEATHDATE", "BIRTHPLACE", "DEATHPLACE", "EXPERTISE", "HOBBY", "INTEREST",
         "PRONOUNS", "LANG", "GENDER", "RELATED", "MEMBER", "KIND", "SOCIALPROFILE",
         "CREATED"]  # fmt: skip
OF_30 = ["MAILER", "CLASS", "SORT-STRING", "AGENT"]
ONCE = {"N", "FN", "BDAY", "ANNIVERSARY", "DEATHDATE", "BIRTHPLACE", "DEATHPLACE", "GENDER", "UID",
        "REV", "KIND", "CREATED", "CLASS", "SORT-STRING"}  # fmt: skip
URIS = {"URL", "IMPP", "RELATED", "MEMBER", "SOCIALPROFILE", "UID", "GEO", "PHOTO"}
FREE = ["NOTE", "TITLE", "ROLE", "EMAIL", "TEL", "ADR", "ORG", "CATEGORIES", "NICKNAME", "URL",
        "IMPP", "BDAY", "GEO", "TZ", "REV", "UID", "PHOTO", "X-BERTH", "X-DEPTH"]  # fmt: skip


def card(chance: random.Random, version: str) -> str:
    """A card of one version, written by its standard."""
    lines = [f"FN:{escaped(chance.choice(TEXTS))}"]
    if version == "3.0" or chance.random() < 0.8:
        lines.append("N:" + ";".join(escaped(chance.choice([*TEXTS, "", ""])) for _ in range(5)))
    names = FREE + (OF_40 if version == "4.0" else OF_30)
    used = {"FN", "N"}
    for _ in range(chance.randrange(1, 9)):
        name = chance.choice(names)
        if name in ONCE and name in used:
            continue
        used.add(name)
        group = f"item{len(lines)}." if chance.random() < 0.2 else ""
        lines.append(
            group + name + params(chance, name, version) + ":" + value(chance, name, version)
        )
        if group and name in ("TEL", "EMAIL", "ADR", "URL"):
            label = chance.choice(["lock cottage", "_$!<Home>!$_", "weir, west", "Büro"])
            lines.append(f"{group}X-ABLabel:{escaped(label)}")
    text = [f"VERSION:{version}", *lines]
    return "".join(f"{folded(line)}\r\n" for line in ["BEGIN:VCARD", *text, "END:VCARD"])


def escaped(text: str) -> str:
    """Text as both versions write it."""
    for mark, written in (("\\", "\\\\"), (",", "\\,"), (";", "\\;"), ("\n", "\\n")):
        text = text.replace(mark, written)
    return text


def value(chance: random.Random, name: str, version: str) -> str:
    """The value of a property, as the standard wants it."""
    if name in ("BDAY", "ANNIVERSARY", "DEATHDATE"):
        return chance.choice(DATES[version])
    if name in ("REV", "CREATED"):
        return "19951031T222710Z" if version == "4.0" else "1995-10-31T22:27:10Z"
    if name == "GEO":
        return chance.choice(["geo:52.1,-1.5", "geo:52.1,-1.5,90", "geo:52.1,-1.5;u=35"]) \
            if version == "4.0" else "52.1;-1.5"  # fmt: skip
    if name == "TZ":
        return "Europe/London" if version == "4.0" else chance.choice(["+03:30", "-05:00"])
    if name == "PHOTO":
        return "data:image/png;base64,iVBORw0KGgo=" if version == "4.0" else "iVBORw0KGgo="
    if name in URIS:
        return chance.choice(
            ["https://x.test/a,b;c?d=e", "urn:uuid:3df403f4-5924", "mailto:a@x.test"]
        )
    if name == "GENDER":
        return chance.choice(["F", "M;he", ";unsaid", "O;it's complicated"])
    if name == "KIND":
        return "individual"
    if name == "LANG":
        return "cy"
    if name == "AGENT":
        return "BEGIN:VCARD\\nVERSION:3.0\\nFN:Tom\\nN:;Tom;;;\\nNOTE:1+1=3D\\, b\\nEND:VCARD"
    if name == "TEL":
        numbers = ["+44 1632 960001", "01632 960001 ext. 4", "ask for Bo"]
        uris = ["tel:+1-202-555-0123;ext=5", "tel:5550177;phone-context=x.test"]
        return chance.choice(numbers + (uris if version == "4.0" else []))
    if name == "ADR":
        return (
            ";".join(escaped(chance.choice([*TEXTS[:8], "", "", ""])) for _ in range(6)) + ";Bath"
        )
    if name == "ORG":
        return ";".join(escaped(chance.choice(TEXTS)) for _ in range(chance.randrange(1, 4)))
    if name in LISTS:
        return ",".join(escaped(chance.choice(TEXTS)) for _ in range(chance.randrange(1, 4)))
    return escaped(chance.choice(TEXTS))


def params(chance: random.Random, name: str, version: str) -> str:
    """Parameters that the version has."""
    found = ""
    if name in ("TEL", "EMAIL", "ADR", "URL", "IMPP") and chance.random() < 0.6:
        types = chance.sample(["home", "work", *(["cell", "fax"] if name == "TEL" else [])],
                              chance.randrange(1, 3))  # fmt: skip
        if version == "3.0" and chance.random() < 0.3:
            types.append("pref")
        one = f";TYPE={','.join(types)}"
        found += one if chance.random() < 0.5 else "".join(f";TYPE={each}" for each in types)
    if version == "3.0":
        if name == "PHOTO":
            found += ";ENCODING=b;TYPE=PNG"
        if name in ("NOTE", "TITLE") and chance.random() < 0.3:
            found += ";LANGUAGE=cy"
        return found + chance.choice(["", "", ";X-DRAUGHT=1.2"] if name != "PHOTO" else [""])
    if name in URIS | {"TEL", "EMAIL", "ADR", "NOTE", "TITLE"} - ONCE and chance.random() < 0.3:
        found += f";PREF={chance.randrange(1, 100)}"
    if name in ("NOTE", "ORG", "TITLE") and chance.random() < 0.3:
        found += chance.choice([";LANGUAGE=cy", ";ALTID=7;LANGUAGE=de", ";PID=1.1"])
    if name == "ORG" and chance.random() < 0.3:
        found += ';SORT-AS="weir, the",x'
    if name == "ADR" and chance.random() < 0.4:
        found += ";LABEL=\"3 Lock Lane^nBath, ^'x^' ^^\""
    if name in ("ANNIVERSARY", "NOTE") and chance.random() < 0.2:
        found += ';X-DRAUGHT=1.2,"a;b"'
    return found


def folded(line: str) -> str:
    """A line folded at 75 octets, between characters."""
    out, room = "", 75
    for char in line:
        size = len(char.encode())
        if room < size:
            out, room = out + "\r\n ", 74
        out, room = out + char, room - size
    return out


# reading


def props(text: str) -> Counter[Prop]:
    """All properties of all cards, by what they say."""
    found: Counter[Prop] = Counter()
    for line in text.replace("\r\n ", "").split("\r\n"):
        if not line or line.split(":")[0] in ("BEGIN", "END", "VERSION"):
            continue
        at = next(at for at, char in enumerate(line)
                  if char == ":" and line[:at].count('"') % 2 == 0)  # fmt: skip
        head, raw = line[:at], line[at + 1 :]
        name, *said = re.split(r';(?=(?:[^"]*"[^"]*")*[^"]*$)', head)
        name = name.rpartition(".")[2].upper()
        told = frozenset(_param(name, each) for each in said) - {""}
        if "DERIVED=TRUE" in {each.upper() for each in told}:
            continue
        told = frozenset(one for each in told for one in _types(each))
        if name == "N" and not raw.strip(";"):
            continue
        found[name, tuple(_texts(name, raw)), told] += 1
    return found


def plainly(found: Counter[Prop]) -> Counter[tuple[str, str]]:
    """The texts that people read, whatever beside them is said in parameters.

    A list is its members without blanks around them, a street its lines, a label that wraps a
    use is that use, and what a table keeps under a name of its own is that.
    """
    plain: Counter[tuple[str, str]] = Counter()
    for (name, texts, _), times in found.items():
        if name == "X-ROUNDCARD-CUSTOM":
            name, _, text = texts[0].partition(";")
            texts = (text,)
        if name == "X-ABLABEL":
            continue
        if name == "ADR":
            texts = (*texts[:2], ",".join(texts[2:3]).replace("\n", ","), *texts[3:])
        if name == "TEL" and (uri := re.fullmatch(r"tel:([^;]*)(?:;ext=(\d+))?.*", texts[0])):
            texts = (uri[1] + (f" ext. {uri[2]}" if uri[2] else ""),)
        if name in LISTS:
            plain.update({(name, text.strip()): times * texts.count(text) for text in texts})
        else:
            plain[name, ";".join(texts).rstrip(";")] += times
    return plain


def _param(name: str, text: str) -> str:
    key, _, values = text.partition("=")
    key = key.upper()
    if key in ("VALUE", "ENCODING", "CHARSET") or (name == "PHOTO" and key == "TYPE"):
        return ""
    values = re.sub(r"\^([n^'])", lambda each: {"n": "\n", "^": "^", "'": '"'}[each[1]], values)
    return f"{key}={values.replace(chr(34), '')}"


def _types(told: str) -> Iterator[str]:
    """Each type for itself; that of a preferred value as the newer version says it."""
    key, _, values = told.partition("=")
    if key != "TYPE":
        yield told
        return
    for each in values.lower().split(","):
        yield "PREF=1" if each == "pref" else f"TYPE={each}"


def _texts(name: str, raw: str) -> list[str]:
    if name in ("BDAY", "ANNIVERSARY", "DEATHDATE", "REV", "CREATED", "TZ"):
        return [re.sub("[-:]", "", raw[:1] and raw) if name != "TZ" else raw.replace(":", "")]
    if name == "PHOTO":
        return [raw.rpartition(",")[2]]
    marks = ";" if name in (*STRUCTURED, "GENDER") else "," if name in LISTS else ""
    pieces = _split(raw, marks) if marks else [raw]
    texts = [_unescaped(piece) for piece in pieces]
    while texts and name in STRUCTURED and not texts[-1]:
        texts.pop()
    return texts


def _split(raw: str, mark: str) -> list[str]:
    pieces: list[str] = []
    held, at = "", 0
    while at < len(raw):
        if raw[at] == "\\":
            held, at = held + raw[at : at + 2], at + 2
        elif raw[at] == mark:
            pieces, held, at = [*pieces, held], "", at + 1
        else:
            held, at = held + raw[at], at + 1
    return [*pieces, held]


def _unescaped(text: str) -> str:
    return re.sub(r"\\([\\,;:nN])", lambda each: "\n" if each[1] in "nN" else each[1], text)
