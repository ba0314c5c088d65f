"""Reading and writing what stands before the colon: group, name, parameters.

The words inside are those of vCard 4.0 whichever version was read; see
:class:`roundcard.card.head.Head`. What a version has no word for is written as an extension
(``X-ROUNDCARD-…``) and taken for the standard's own when read again.
"""

from __future__ import annotations

import re

from roundcard.card.fields import CUSTOM, FIELDS, field_of
from roundcard.card.head import Head, Params
from roundcard.patterns import pattern

OURS = "X-ROUNDCARD-"
"""Begins the names of extensions that stand for what a version cannot say."""

_PARAM_30 = frozenset({"type", "language", "value", "encoding", "charset", "context"})
"""Parameters that vCard 3.0 defines (RFC 2426 section 4)."""
_PARAM_40 = frozenset({
    "language", "value", "pref", "altid", "pid", "type", "mediatype", "calscale", "sort-as", "geo",
    "tz", "label", "index", "level", "cc", "author", "author-name", "created", "derived",
    "phonetic", "prop-id", "script", "service-type", "username", "jsptr", "jscomps",
})  # fmt: skip
"""Parameters of vCard 4.0: RFC 6350 section 5, RFC 6715, RFC 8605, RFC 9554, RFC 9555."""
_NAME = pattern(r"[A-Za-z0-9-]+", re.ASCII)
"""A name (RFC 6350 section 3.3)."""
_SLOPPY_NAME = pattern(r"[A-Za-z0-9_-]+", re.ASCII)
"""A name as files have it."""
PARAMS, EXACT = OURS.lower() + "params", OURS.lower() + "exact"
AS_URI = OURS + "VALUE=URI"
"""The parameter, in capitals, of a number that was a plain ``tel:`` URI."""
OF = OURS.lower() + "of"
"""Marks a line that says again, in a version's own words, what an extension says in full."""
NAMED = OURS.lower() + "name"
"""Tells the name of a property that is not one by the grammar."""
_OWN_PARAMS = frozenset({"params", "exact", "of", "group", "why", "name", "omit-year"})
_SPELLED = {"x-ablabel": "X-ABLabel"}
_NO_NAME = pattern(r"[^A-Za-z0-9-]")
_NO_VALUE = pattern(r"[\x00-\x08\x0b-\x1f\x7f]")
_READ_AS_ESCAPE = pattern(r"\\(?=[\\nN,;:\"])")
_PREF = pattern(r"[1-9]\d?|100", re.ASCII)
_VALUE = r'(?:"[^"\x00-\x08\x0a-\x1f\x7f]*"|[^":;,\x00-\x08\x0a-\x1f\x7f]*)'
_WELL_FORMED = pattern(
    rf"(?:[A-Za-z0-9-]+\.)?[A-Za-z0-9-]+(?:;[A-Za-z0-9-]+={_VALUE}(?:,{_VALUE})*)*", re.ASCII
)
_CARET = pattern(r"\^([n^'])")
_CARET_MEANS = {"n": "\n", "^": "^", "'": '"'}
_VALUE_TOLD = frozenset({"text", "phone", "date", "uri", "geo", "media", "list", "parts"})
"""Kinds whose value itself tells its type, so that the VALUE parameter need not be kept."""


def split_line(line: str) -> tuple[str, str] | None:
    """Head and raw value of a logical line; None where it has no colon outside quotes."""
    head, colon, raw = line.partition(":")
    if '"' in head and head.count('"') % 2:
        quoted = False
        for at, char in enumerate(line):
            if char == '"':
                quoted = not quoted
            elif char == ":" and not quoted:
                return line[:at], line[at + 1 :]
    return (head, raw) if colon else None


def read_head(text: str, version: str) -> tuple[str, str, Params]:
    """Group, name and parameters of a head, in the words of vCard 4.0.

    Raises `ValueError` where no name stands in it.
    """
    pieces = _outside_quotes(text, ";")
    group, dot, name = pieces[0].strip().rpartition(".")
    if not is_name(name) or (dot and not is_name(group)):
        raise ValueError(f"'{pieces[0][:40]}' is not a property name")
    name = name.lower()
    name = _plain_name(name)
    params = raw_params(text, version)
    came = next((values[0] for key, values in params if key == NAMED and values), "")
    if came and is_name(came):
        name = came.lower()
        params = [(key, values) for key, values in params if key != NAMED]
    told = next((values[0] for key, values in params if key == PARAMS and values), "")
    if told:  # what 2.1 could not say; it stands for all of them
        inner = bytes.fromhex(told).decode("utf-8")
        return group, name, read_head(f"X-ANY;{inner}", "4.0")[2]
    if field_of(name).kind == "raw":
        return group, name, tuple(params)
    return group, name, _in_new_words(name, params)


def is_name(text: str) -> bool:
    """Whether text is the name of a property, parameter or group, as generous readers take it."""
    return bool(_SLOPPY_NAME.fullmatch(text))


def raw_params(text: str, version: str) -> list[tuple[str, tuple[str, ...]]]:
    """The parameters of a head as they stand there, their names in lower case."""
    params: list[tuple[str, tuple[str, ...]]] = []
    for piece in _outside_quotes(text, ";")[1:]:
        key, equals, values = piece.partition("=")
        key = key.strip().lower()
        if not equals:  # 2.1 names the value alone
            if key:
                params.append(_bare(key, piece.strip()))
            continue
        ours = key.startswith(OURS.lower())  # our own are written in 4.0's way everywhere
        params.append((_plain_param(key), _values(values, "4.0" if ours else version)))
    return params


def _plain_name(name: str) -> str:
    inner = name.removeprefix(OURS.lower())
    if inner.startswith("as-") and inner != name:
        return inner.removeprefix("as-")
    return inner if name != CUSTOM and inner in FIELDS else name


def _plain_param(key: str) -> str:
    inner = key.removeprefix(OURS.lower())
    return key if inner in _OWN_PARAMS else inner


def _bare(key: str, text: str) -> tuple[str, tuple[str, ...]]:
    if key in ("quoted-printable", "base64", "8bit", "7bit", "b"):
        return "encoding", (key,)
    if key in ("inline", "url", "content-id", "cid", "uri"):
        return "value", (key,)
    return "type", (text,)


def _outside_quotes(text: str, mark: str) -> list[str]:
    if '"' not in text:
        return text.split(mark)
    pieces, begin, quoted = [], 0, False
    for at, char in enumerate(text):
        if char == '"':
            quoted = not quoted
        elif char == mark and not quoted:
            pieces.append(text[begin:at])
            begin = at + 1
    return [*pieces, text[begin:]]


def _values(text: str, version: str) -> tuple[str, ...]:
    values = [value.strip('"') for value in _outside_quotes(text, ",")]
    if version == "4.0":  # RFC 6868 section 3
        values = [_CARET.sub(lambda found: _CARET_MEANS[found[1]], value) for value in values]
    return tuple(values)


def _in_new_words(name: str, params: list[tuple[str, tuple[str, ...]]]) -> Params:
    """The parameters of a known property: types folded, preference apart, encodings gone."""
    media = FIELDS[name].kind == "media"
    types: list[str] = []
    kept: list[tuple[str, tuple[str, ...]]] = []
    preferred = False
    for key, values in params:
        if key == "type" and not media:
            # TYPE="home,work" is one quoted text in some files, meant as two
            words = [word.strip().lower() for value in values for word in value.split(",")]
            preferred |= "pref" in words
            types += [word for word in words if word and word != "pref" and word not in types]
        elif key in ("encoding", "charset") or (
            key == "value"
            and FIELDS[name].kind in _VALUE_TOLD
            and (name != "tz" or values[:1] in (("text",), ("utc-offset",)))
        ):
            continue
        elif media and key in ("type", "mediatype"):
            words = [value.lower() for value in values]
            preferred |= key == "type" and "pref" in words
            words = [word for word in words if key == "mediatype" or word != "pref"]
            if not any(word in ("home", "work") for word in words):
                continue  # the media type is said by the data: URI
            kept.append((key, tuple(words)))
        elif key == "derived":
            kept.append((key, tuple(value.lower() for value in values)))
        else:
            kept.append((key, values))
    if types:
        kept.insert(0, ("type", tuple(types)))
    if preferred and not any(key == "pref" for key, _ in kept):
        kept.append(("pref", ("1",)))
    return tuple(kept)


def write_head(
    head: Head, version: str, extra: Params = (), name: str = "", leave: str = ""
) -> str:
    """A head in the words of `version`, without the colon.

    `extra` are parameters that the value needs (VALUE, ENCODING); `leave` names one to leave off.
    A property that the version does not define gets the extension name unless `name` is given.
    """
    field = head.field
    unknown = not field.versions
    if not name:
        ours = not unknown and version not in field.versions
        name = OURS + head.name.upper() if ours else _spelled(head)
    rest: list[tuple[str, tuple[str, ...]]] = []
    if not _NAME.fullmatch(name):
        rest.append((NAMED.upper(), (name,)))
        name = _NO_NAME.sub("-", name)
    words = [f"{_NO_NAME.sub('-', head.group)}.{name}" if head.group else name]
    types: tuple[str, ...] = ()
    preferred = False
    for key, values in head.params:
        if key == leave:
            continue
        if key == "type":
            types += values
        elif key == "pref" and version != "4.0" and values == ("1",):
            types += ("pref",)
        elif key == "pref" and (preferred or not (len(values) == 1 and _PREF.fullmatch(values[0]))):
            rest.append((OURS + "PREF", values))
        elif unknown or version == "4.0" or key in _PARAM_30 or key.startswith("x-"):
            rest.append((key.upper(), values))
        else:
            rest.append((OURS + key.upper(), values))
        preferred = preferred or key == "pref"
    if types:
        rest.insert(0, ("TYPE", types))
    for key, values in [*rest, *extra]:
        way = "4.0" if key.startswith(OURS) else version
        if way != "4.0" and any('"' in value or "\n" in value for value in values):
            key, way = OURS + key, "4.0"  # 3.0 has no words for a quote or a line break
        if not _NAME.fullmatch(key):
            key = "X-" + _NO_NAME.sub("-", key)
        words.append(f"{key}={','.join([_param_value(value, way) for value in values])}")
    return ";".join(words)


def exact_param(raw: str) -> str:
    """The parameter that tells the whole of a value beside what a version can say of it."""
    return "".join(f";{key}={values[0]}" for key, values in exact_params(raw))


def tel_params(raw: str, text: str) -> Params:
    """The parameters that tell of a ``tel:`` URI, which is written as the number `text`."""
    if not raw:
        return ()
    plain = raw == f"tel:{text}" or raw == "tel:" + text.replace(" ext. ", ";ext=")
    return ((OURS + "VALUE", ("uri",)),) if plain else exact_params(raw)


def exact_params(raw: str) -> Params:
    """The same, as `write_head` takes it."""
    return ((EXACT.upper(), (raw.encode("utf-8").hex().upper(),)),) if raw else ()


def in_label(text: str) -> str:
    """Text for the LABEL of an address, in which some read a backslash as an escape."""
    return _READ_AS_ESCAPE.sub(r"\\\\", text) if "\\" in text else text


def well_formed(text: str) -> bool:
    """Whether a head can be written as it came: each parameter with a name and a value."""
    return bool(_WELL_FORMED.fullmatch(text))


def _spelled(head: Head) -> str:
    """A property's name: as it came where nobody knows it, else in capitals."""
    if head.field.versions:
        return head.name.upper()
    came = head.text.partition(";")[0].rpartition(".")[2].strip()
    if came.lower() != head.name:
        came = ""
    return came or _SPELLED.get(head.name, head.name.upper())


def _param_value(value: str, version: str) -> str:
    if not value.isprintable():
        value = _NO_VALUE.sub(" ", value)
    if version == "4.0":  # RFC 6868 section 3.1
        value = value.replace("^", "^^").replace("\n", "^n").replace('"', "^'")
    else:
        value = value.replace("\n", " ").replace('"', "'")
    if any(mark in value for mark in ":;,") or not value.isprintable():
        return f'"{value}"'
    return value
