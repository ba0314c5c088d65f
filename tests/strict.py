"""A validator of vCard text that knows only the standards (RFC 2426, RFC 6350 and what extends it,
the versit text of 1996)."""

from __future__ import annotations

import binascii
import re

NAME = r"[A-Za-z0-9-]+"
SAFE = r"[\t !#-+\--9<-~\x80-\U0010ffff]*"
QUOTED = r'"[\t !#-~\x80-\U0010ffff]*"'
VALUE = rf"(?:{QUOTED}|{SAFE})"
LINE = re.compile(rf"(?:({NAME})\.)?({NAME})((?:;{NAME}={VALUE}(?:,{VALUE})*)*):(.*)", re.DOTALL)
PARAM = re.compile(rf";({NAME})=({VALUE}(?:,{VALUE})*)")


def _words(text: str) -> set[str]:
    return set(text.split())


PROPERTIES = {
    "3.0": _words("""
    NAME PROFILE SOURCE FN N NICKNAME PHOTO BDAY ADR LABEL TEL EMAIL MAILER TZ GEO TITLE ROLE
    LOGO AGENT ORG CATEGORIES NOTE PRODID REV SORT-STRING SOUND UID URL VERSION CLASS KEY IMPP
"""),
    "4.0": _words("""
    SOURCE KIND XML FN N NICKNAME PHOTO BDAY ANNIVERSARY GENDER ADR TEL EMAIL IMPP LANG TZ GEO
    TITLE ROLE LOGO ORG MEMBER RELATED CATEGORIES NOTE PRODID REV SOUND UID CLIENTPIDMAP URL
    VERSION KEY FBURL CALADRURI CALURI BIRTHPLACE DEATHPLACE DEATHDATE EXPERTISE HOBBY INTEREST
    ORG-DIRECTORY CONTACT-URI CREATED GRAMGENDER LANGUAGE PRONOUNS SOCIALPROFILE JSPROP
"""),
}
PARAMS = {
    "3.0": _words("""
    TYPE VALUE ENCODING LANGUAGE CONTEXT
"""),
    "4.0": _words("""
    LANGUAGE VALUE PREF ALTID PID TYPE MEDIATYPE CALSCALE SORT-AS GEO TZ LABEL INDEX LEVEL CC
    AUTHOR AUTHOR-NAME CREATED DERIVED PHONETIC PROP-ID SCRIPT SERVICE-TYPE USERNAME JSPTR
    JSCOMPS
"""),
}
ONCE = {
    "3.0": {"N", "FN", "BDAY", "REV", "UID", "CLASS", "SORT-STRING", "PRODID", "VERSION"},
    "4.0": _words("""
    N BDAY ANNIVERSARY GENDER REV PRODID UID KIND VERSION BIRTHPLACE DEATHPLACE DEATHDATE
    CREATED LANGUAGE
"""),
}
TEXTS = _words("""
    FN NOTE TITLE ROLE EMAIL NAME CLASS MAILER LABEL SORT-STRING EXPERTISE HOBBY INTEREST
    PRONOUNS
""")
URIS_40 = _words("""
    PHOTO LOGO SOUND KEY URL IMPP SOURCE MEMBER FBURL CALADRURI CALURI RELATED UID GEO
    ORG-DIRECTORY CONTACT-URI SOCIALPROFILE
""")
URI = re.compile(r"[A-Za-z][A-Za-z0-9+.-]*:\S+")
DATE_40 = re.compile(
    r"(\d{8}|\d{4}-\d\d|\d{4}|--\d{4}|--\d\d|---\d\d)?(T\d\d(\d\d(\d\d)?)?(Z|[+-]\d\d(\d\d)?)?)?"
)
DATE_30 = re.compile(r"\d{4}-?\d\d-?\d\d(T\d\d:?\d\d:?\d\d([.,]\d+)?(Z|[+-]\d\d:?\d\d)?)?")
STAMP_40 = re.compile(r"\d{8}T\d{6}(Z|[+-]\d\d(\d\d)?)?")


def wrong(text: str, version: str) -> list[str]:
    """What a standard says against a file that is all of one version."""
    if version == "2.1":
        return _wrong_21(text)
    found = [f"a line of {len(line.encode())} octets" for line in text.split("\r\n")
             if len(line.encode()) > 75]  # fmt: skip
    lines = text.replace("\r\n ", "").replace("\r\n\t", "").split("\r\n")
    if lines.pop() != "":
        found.append("the last line has no end")
    card: list[tuple[str, dict[str, str], str]] | None = None
    for line in lines:
        if re.search("[\x00-\x08\x0a-\x1f\x7f]", line):
            found.append(f"a control character in {line!r}")
        match = LINE.fullmatch(line)
        if match is None:
            found.append(f"no content line: {line!r}")
            continue
        _, name, params, value = match.groups()
        if name.upper() == "BEGIN":
            card = []
        elif card is None:
            found.append(f"outside a card: {line!r}")
        elif name.upper() == "END":
            found += _wrong_card(card, version)
            card = None
        else:
            said = {key.upper(): text for key, text in PARAM.findall(params)}
            card.append((name.upper(), said, value))
            found += [f"{why}: {line!r}" for why in _wrong_line(*card[-1], version)]
    return found + (["no END"] if card is not None else [])


def _wrong_card(card: list[tuple[str, dict[str, str], str]], version: str) -> list[str]:
    found = []
    names = [name for name, _, _ in card]
    if version == "4.0" and names[:1] != ["VERSION"]:
        found.append("VERSION is not first")
    for name in ("VERSION", "FN", *(["N"] if version == "3.0" else [])):
        if name not in names:
            found.append(f"no {name}")
    for name in ONCE[version]:
        ties = [said.get("ALTID", object()) for each, said, _ in card if each == name]
        if len(set(ties)) > 1:
            found.append(f"{len(ties)} × {name}")
    return found


def _wrong_line(name: str, said: dict[str, str], value: str, version: str) -> list[str]:
    found = []
    # what no version knows may be registered one day; what another one has is none of this
    others = PROPERTIES["3.0"] | PROPERTIES["4.0"]
    if name in others - PROPERTIES[version]:
        found.append("no property of this version")
    others = PARAMS["3.0"] | PARAMS["4.0"]
    found += [f"parameter {key}" for key in said if key in others - PARAMS[version]]
    if name.startswith("X-"):
        return found
    if "PREF" in said and not re.fullmatch("[1-9][0-9]?|100", said["PREF"]):
        found.append("PREF")
    bare = re.sub(r"\\[\\,;nN]", "", value)
    is_uri = name in URIS_40 if version == "4.0" else "uri" in said.get("VALUE", "").lower()
    if is_uri and said.get("VALUE", "").lower() != "text":
        if not URI.fullmatch(value):
            found.append("no URI")
    elif "\\" in bare and name not in ("AGENT", "XML", "CLIENTPIDMAP", "ORG"):
        found.append("a backslash that escapes nothing")
    if name in TEXTS and "," in bare:
        found.append("a bare comma")
    if name == "N" and value.count(";") - value.count("\\;") not in (4, 6) and "\\" not in value:
        found.append("N has not five parts")
    if name == "ADR" and value.count(";") not in (6, 17) and "\\" not in value:
        found.append("ADR has not seven parts")
    return found + _wrong_value(name, said, value, version)


def _wrong_value(name: str, said: dict[str, str], value: str, version: str) -> list[str]:
    as_text = said.get("VALUE", "").lower() == "text"
    if version == "4.0":
        dates = name in ("BDAY", "ANNIVERSARY", "DEATHDATE") and not as_text
        if dates and not (value and DATE_40.fullmatch(value)):
            return ["no date"]
        return (
            ["no timestamp"] if name in ("REV", "CREATED") and not STAMP_40.fullmatch(value) else []
        )
    if name in ("BDAY", "REV") and not DATE_30.fullmatch(value):
        return ["no date"]
    if said.get("ENCODING", "").lower() == "b":
        try:
            binascii.a2b_base64(value)
        except binascii.Error:
            return ["no base64"]
    return []


NESTED = re.compile(
    r"^((?:[\w-]+\.)?AGENT[^\r\n]*:)\r\nBEGIN:VCARD\r\n(?:(?!BEGIN:VCARD\r\n)[^\n]*\n)*?END:VCARD\r\n",
    re.MULTILINE,
)


def _wrong_21(text: str) -> list[str]:
    found = []
    quoted = False
    for line in text.split("\r\n"):
        if not line.isascii():
            found.append(f"not ASCII: {line!r}")
        if len(line) > 76 and "X-ROUNDCARD" not in line and not quoted:
            found.append(f"a line of {len(line)}: {line!r}")
        if quoted or "QUOTED-PRINTABLE:" in line:
            if re.search(r"=(?![0-9A-F]{2}|$)", line.partition(":")[2] if not quoted else line):
                found.append(f"no quoted-printable: {line!r}")
            quoted = line.endswith("=")
    while NESTED.search(text):  # a card within the card is an agent's
        text = NESTED.sub(r"\1\r\n", text)
    for card in re.split(r"(?m)^BEGIN:VCARD\r\n", text)[1:]:
        names = re.findall(r"^(?:[A-Za-z0-9-]+\.)?([A-Za-z0-9-]+)[;:]", card, re.MULTILINE)
        found += [f"no {name}" for name in ("VERSION", "N", "END") if name not in names]
    return found
