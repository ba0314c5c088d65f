"""The table of fields: what each property means, as data.

Formats, layouts, steps and the tally all read this one table. Names are the standard's, in lower
case; the trade words that users see stand beside them.

Sources: RFC 6350 (section 6), RFC 2426, the versit consortium's vCard 2.1 (1996), RFC 6474,
RFC 6715, RFC 8605 and RFC 9554.
"""

from __future__ import annotations

from typing import Literal, NamedTuple

Kind = Literal["text", "list", "parts", "phone", "date", "uri", "geo", "media", "raw"]
"""How a value is built.

``text``: one string. ``list``: a tuple of strings, each a value. ``parts``: a tuple of components.
``phone``: text, or a ``tel:`` URI. ``date``: ISO 8601 extended as far as it is known
(``1980-04-12``, ``--04-12``, ``1980``), or text. ``uri``: a URI, or text. ``geo``: a ``geo:`` URI.
``media``: a URI, often a ``data:`` one. ``raw``: the undecoded text of a property that the table
does not know.
"""

Equality = Literal["exact", "text", "folded", "number", "email"]
"""How two values of a field are compared; see :mod:`roundcard.card.equality`."""


class Field(NamedTuple):
    """One row of the table."""

    name: str
    """The property's name, in lower case."""
    path: str
    """The trade word that field paths begin with; empty where no path reaches the property."""
    kind: Kind
    versions: str
    """The vCard versions that define the property, as ``"2.1 3.0 4.0"``."""
    many: bool = True
    """Whether a contact may have several."""
    parts: tuple[str, ...] = ()
    """Names of the components, in the standard's order."""
    inner: bool = False
    """Whether one component may hold several values, parted by commas."""
    uses: tuple[str, ...] = ()
    """The uses that a value of this field may be marked with."""
    equality: Equality = "text"
    counts: bool = True
    """Whether a person would miss it: bookkeeping of the formats counts for nothing."""
    what: str = ""
    """What it is, in a few plain words."""


ALL, OLD, V30, V4 = "2.1 3.0 4.0", "2.1 3.0", "3.0", "4.0"
V34 = "3.0 4.0"

PLACE_USES = ("home", "work", "other")
PHONE_USES = (
    *PLACE_USES, "cell", "fax", "pager", "voice", "text", "video", "textphone", "main-number",
    "car", "modem", "isdn", "pcs", "bbs", "msg",
)  # fmt: skip
"""RFC 6350 section 6.4.1; the last six are RFC 2426's, kept for what old files hold."""
RELATIONS = (
    "contact", "acquaintance", "friend", "met", "co-worker", "colleague", "co-resident",
    "neighbor", "child", "parent", "sibling", "spouse", "kin", "muse", "crush", "date",
    "sweetheart", "me", "agent", "emergency",
)  # fmt: skip
"""RFC 6350 section 6.6.6."""

N_PARTS = ("family", "given", "additional", "prefix", "suffix", "family2", "generation")
"""RFC 6350 section 6.2.2; the last two are RFC 9554 section 2.2."""
ADR_PARTS = (
    "pobox", "extended", "street", "locality", "region", "postcode", "country",
    "room", "apartment", "floor", "house-number", "street-name", "building", "block",
    "subdistrict", "district", "landmark", "direction",
)  # fmt: skip
"""RFC 6350 section 6.3.1; all after the country are RFC 9554 section 2.1."""
STREET = ADR_PARTS.index("street")
LEAST_PARTS = {"n": 5, "adr": 7}
"""How many components are written even where the last ones are empty (RFC 6350 sections 6.2.2
and 6.3.1)."""

TABLE: tuple[Field, ...] = (
    # who
    Field("n", "name", "parts", ALL, False, N_PARTS, True, what="the parts of the name"),
    Field("fn", "name", "text", ALL, equality="folded", what="the whole name, as it is written"),
    Field("nickname", "nickname", "list", V34, equality="folded", what="what friends say"),
    Field("org", "org", "parts", ALL, parts=("name", "unit"), equality="folded",
          what="organisation, then its units"),
    Field("title", "title", "text", ALL, what="position in the organisation"),
    Field("role", "role", "text", ALL, what="what the person does there"),
    # how to reach them
    Field("email", "email", "text", ALL, uses=PLACE_USES, equality="email",
          what="e-mail address"),
    Field("tel", "phone", "phone", ALL, uses=PHONE_USES, equality="number",
          what="telephone number"),
    Field("adr", "address", "parts", ALL, parts=ADR_PARTS, inner=True, uses=PLACE_USES,
          equality="folded", what="postal address"),
    Field("label", "address", "text", OLD, uses=PLACE_USES, equality="folded",
          what="an address as it stands on an envelope"),
    Field("url", "url", "uri", ALL, uses=PLACE_USES, equality="exact", what="web page"),
    Field("impp", "chat", "uri", V34, uses=PLACE_USES, equality="exact",
          what="address for instant messages"),
    Field("socialprofile", "social", "uri", V4, uses=PLACE_USES, equality="exact",
          what="profile in a social network"),
    # about them
    Field("bday", "birthday", "date", ALL, False, what="date of birth"),
    Field("anniversary", "anniversary", "date", V4, False, what="wedding day"),
    Field("note", "note", "text", ALL, what="remarks"),
    Field("categories", "category", "list", V34, equality="folded", what="groups and tags"),
    Field("photo", "photo", "media", ALL, equality="exact", what="picture"),
    Field("gender", "gender", "parts", V4, False, ("sex", "identity"),
          what="sex and gender identity"),
    Field("pronouns", "pronouns", "text", V4, equality="folded", what="pronouns"),
    Field("lang", "language", "text", V4, uses=PLACE_USES, equality="folded",
          what="language to use with them"),
    Field("tz", "timezone", "text", ALL, uses=PLACE_USES, what="time zone"),
    Field("geo", "geo", "geo", ALL, uses=PLACE_USES, equality="exact", what="position on earth"),
    Field("related", "related", "uri", V4, uses=(*RELATIONS, *PLACE_USES),
          what="another person, and how related"),
    Field("birthplace", "birthplace", "text", V4, False, what="place of birth"),
    Field("deathdate", "deathdate", "date", V4, False, what="date of death"),
    Field("deathplace", "deathplace", "text", V4, False, what="place of death"),
    Field("expertise", "expertise", "text", V4, what="what they are skilled in"),
    Field("hobby", "hobby", "text", V4, what="what they like to do"),
    Field("interest", "interest", "text", V4, what="what they like to follow"),
    Field("org-directory", "", "uri", V4, equality="exact"),
    Field("logo", "logo", "media", ALL, equality="exact", what="emblem of the organisation"),
    Field("sound", "sound", "media", ALL, equality="exact", what="how the name is spoken"),
    Field("key", "key", "media", ALL, equality="exact", what="public key"),
    Field("contact-uri", "", "uri", V4, equality="exact"),
    Field("fburl", "", "uri", V4, equality="exact"),
    Field("caladruri", "", "uri", V4, equality="exact"),
    Field("caluri", "", "uri", V4, equality="exact"),
    Field("gramgender", "", "text", V4),
    Field("language", "", "text", V4, False),
    # the record itself
    Field("uid", "uid", "uri", ALL, False, equality="exact", what="identity of the record"),
    Field("rev", "revised", "text", ALL, False, equality="exact", what="when it last changed"),
    Field("kind", "kind", "text", V4, False, equality="folded",
          what="individual, group, org or location"),
    Field("member", "member", "uri", V4, equality="exact", what="somebody in this group"),
    Field("created", "created", "text", V4, False, equality="exact", what="when it was made"),
    Field("source", "", "uri", V34, equality="exact"),
    Field("clientpidmap", "", "raw", V4),
    Field("xml", "", "raw", V4),
    # only in older versions
    Field("mailer", "", "text", OLD),
    Field("agent", "", "raw", OLD),
    Field("class", "", "text", V30, False),
    Field("sort-string", "", "text", V30, False),
    Field("name", "", "text", V30, False),
    Field("profile", "", "text", V30, False, counts=False),
    # ours: a column that no standard field can hold, as label and value
    Field("x-roundcard-custom", "custom", "parts", ALL, parts=("label", "value"),
          what="anything else, under a label of your own"),
    # bookkeeping
    Field("begin", "", "raw", ALL, False, counts=False),
    Field("version", "", "raw", ALL, False, counts=False),
    Field("prodid", "", "raw", V34, False, counts=False),
    Field("end", "", "raw", ALL, False, counts=False),
)  # fmt: skip

CUSTOM = "x-roundcard-custom"

FIELDS: dict[str, Field] = {field.name: field for field in TABLE}
"""The known fields by property name."""

_unknown: dict[str, Field] = {}


def field_of(name: str) -> Field:
    """The field of a property name in lower case; one of kind ``raw`` where it is unknown."""
    known = FIELDS.get(name) or _unknown.get(name)
    if known is None:
        known = Field(name, "", "raw", "")
        if len(_unknown) < 10_000:  # a hostile file must not fill the memory
            _unknown[name] = known
    return known


def by_path(word: str) -> tuple[Field, ...]:
    """The fields that paths beginning with `word` reach, the main one first."""
    return tuple(field for field in TABLE if field.path == word)


def is_label(name: str, group: str) -> bool:
    """Whether a property is the label of the others in its group (RFC 9555 names one)."""
    return bool(group) and name.startswith("x-") and name.endswith("label")
