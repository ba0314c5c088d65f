"""Fates, and the reasons for them: typed, never text that anybody parses.

A reason says which fate it is of, which rule decided, of which field, and what varies (the name of
a column, a category, a character set). Words for people are made of it where it is shown.
"""

from __future__ import annotations

from enum import StrEnum
from typing import NamedTuple

from roundcard.card.names import MadeFrom
from roundcard.card.origin import MOST_REASONS, added, changed, derived


class Fate(StrEnum):
    """What becomes of a person or a value that does not go straight through."""

    __hash__ = str.__hash__  # reasons are looked up for each value, and that of Enum is slow

    PASSED_OVER = "passed over"
    """Read, but nobody's: what stands above the headings of a table, or explains them."""
    SET_ASIDE = "set aside"
    """Kept aside with a record, or a line, that could not be read."""
    LEFT_OUT = "left out"
    """Not wanted: the user said so."""
    FOLDED = "folded"
    """Said by an equal value, or by the person with whom this one was merged, that goes on."""
    LEFT_BEHIND = "left behind"
    """The target has no room or no characters for it; kept in a file beside."""
    NOT_SENT = "not sent"
    """The destination would refuse the person; kept in a file beside."""
    HELD_BACK = "held back"
    """Asked about, and not answered yet."""
    REFUSED = "set aside by the service"
    """The service refused it."""
    CHANGED = "changed"
    """Written otherwise than it was read, by a named rule."""
    SPLIT = "split"
    """A further value that one read text became: the text was read as one value, and is several."""
    ADDED = "added"
    """Written, but in no source."""
    DERIVED = "derived"
    """Made from what still stands elsewhere as it was read."""


class Why(StrEnum):
    """The rules that are no cleaning rule; those go by their own names."""

    __hash__ = str.__hash__

    OTHER = "other"
    """Many different reasons together, where a hostile file would fill the memory with them."""
    UNSAID = "unsaid"

    # passed over, set aside
    ABOVE_HEADINGS = "above-headings"
    EXPLAINS_HEADINGS = "explains-headings"
    UNREADABLE = "unreadable"

    # left out
    COLUMN_SKIPPED = "column-skipped"
    COLUMN_UNLISTED = "column-unlisted"
    COLUMN_FIXED = "column-fixed"
    MEANS_NOTHING = "means-nothing"
    NOTHING_WANTED = "nothing-wanted"
    CONDITION = "condition"
    NOT_PICKED = "not-picked"
    PICKED = "picked"
    NOT_CHOSEN = "not-chosen"
    NOTHING_CHOSEN = "nothing-chosen"
    NOTHING_LEFT = "nothing-left"
    CATEGORY_REMOVED = "category-removed"
    ROW_DELETED = "row-deleted"
    EMPTIED = "emptied"
    IN_BOOK = "in-book"
    MADE_BY_MERGE = "made-by-merge"
    AS_DELIVERED = "as-delivered"
    STANDS_THERE = "stands-there"
    AWAY_THERE = "away-there"

    # held back
    BLIND = "blind"
    VALUE_ASKED = "value-asked"
    PERSON_ASKED = "person-asked"

    # folded
    WHOLE_SAYS_PARTS = "whole-says-parts"
    PARTS_SAY_WHOLE = "parts-say-whole"
    SAID_BY_LAYOUT = "said-by-layout"
    GROUP_IN_CATEGORIES = "group-in-categories"
    CATEGORY_OF_GROUP = "category-of-group"
    CATEGORY_MERGED = "category-merged"
    MERGED_PERSON = "merged-person"
    SAME_ELSEWHERE = "same-elsewhere"
    IN_FULL_ELSEWHERE = "in-full-elsewhere"
    MERGED_UID = "merged-uid"
    MERGED_REVISED = "merged-revised"
    MERGED_CREATED = "merged-created"
    MERGED_KIND = "merged-kind"
    MEMBER_MERGED = "member-merged"
    SAID_IN_ONE = "said-in-one"

    # left behind
    NO_COLUMN = "no-column"
    NO_FREE_COLUMN = "no-free-column"
    NO_COLUMN_FOR_PART = "no-column-for-part"
    NO_COLUMN_FOR_NAME_PART = "no-column-for-name-part"
    NO_COLUMN_FOR_WHOLE_NAME = "no-column-for-whole-name"
    NO_COLUMN_FOR_SECOND_NAME = "no-column-for-second-name"
    NO_COLUMN_FOR_SOUND = "no-column-for-sound"
    NO_COLUMN_FOR_SCRIPT = "no-column-for-script"
    NO_COLUMN_FOR_LABEL = "no-column-for-label"
    NO_COLUMNS_FOR_DATE = "no-columns-for-date"
    NO_CHARACTERS = "no-characters"
    SEPARATES_THERE = "separates-there"
    TOO_LONG = "too-long"
    CELL_FULL = "cell-full"
    NO_COLUMN_FOR_PERSON = "no-column-for-person"
    GROUP_NOT_WHOLE = "group-not-whole"
    ANOTHER_TAKEN = "another-taken"
    BOOK_HAS_OWN = "book-has-own"
    DROPPED_THERE = "dropped-there"
    NOT_ALLOWED = "not-allowed"
    OVER_LIMIT = "over-limit"
    TOO_LONG_THERE = "too-long-there"
    REPLACED = "replaced"

    # not sent
    LACKS_NEEDED = "lacks-needed"
    TOO_BIG_THERE = "too-big-there"

    # changed
    COLUMN_VALUES = "column-values"
    COLUMN_DATES = "column-dates"
    USE_LOST = "use-lost"
    PARAMETERS_LOST = "parameters-lost"
    PREFERENCE_LOST = "preference-lost"
    BLANKS_LOST = "blanks-lost"
    PARTS_JOINED = "parts-joined"
    STREET_JOINED = "street-joined"
    BYTES_REPAIRED = "bytes-repaired"
    HALF_CHARACTER = "half-character"
    NOT_BASE64 = "not-base64"
    CONTROLS_REPLACED = "controls-replaced"
    GROUP_NAME_LOST = "group-name-lost"
    CHARSET_UNKNOWN = "charset-unknown"
    EDITED = "edited"
    NAME_FOLLOWS = "name-follows"
    CATEGORY_RENAMED = "category-renamed"
    POINTS_ANEW = "points-anew"
    KEPT_BESIDE = "kept-beside"
    AS_BEFORE = "as-before"
    RIDES_IN_NOTE = "rides-in-note"
    OUT_OF_NOTE = "out-of-note"
    STYLED = "styled"
    NEAREST = "nearest"
    ON_ONE_LINE = "on-one-line"
    ALLOWED_OTHERWISE = "allowed-otherwise"
    CUT = "cut"

    # added
    COLUMNS_FIXED = "columns-fixed"
    BY_LAYOUT = "by-layout"
    BY_GROUP = "by-group"
    SET = "set"
    IN_SHEET = "in-sheet"
    NEW_PEOPLE = "new-people"
    FROM_BEFORE = "from-before"
    FROM_THERE = "from-there"
    RESTORED = "restored"
    FROM_RECORD = "from-record"

    # derived
    NAME_FROM_PARTS = "name-from-parts"
    NAME_FROM_ORG = "name-from-org"
    NAME_FROM_NICKNAME = "name-from-nickname"
    NAME_FROM_EMAIL = "name-from-email"
    NAME_FROM_PHONE = "name-from-phone"
    NAME_FROM_REST = "name-from-rest"
    PARTS_FROM_NAME = "parts-from-name"
    IDENTITY = "identity"


class Reason(NamedTuple):
    """Why a person or a value met its fate."""

    fate: Fate
    rule: str
    """A `Why`, or the name of a cleaning rule."""
    field: str = ""
    """The trade word of the field, or the label of a custom value; empty where it is no matter."""
    details: tuple[str, ...] = ()
    """What varies."""

    def __str__(self) -> str:
        """The rule, the field and what varies; sentences are made where they are shown."""
        return " ".join(filter(None, (str(self.rule), self.field, *self.details)))


def name_from(what: MadeFrom) -> Reason:
    """Why a whole name was made, by what it was made from."""
    return _NAMES_FROM[what]


_NAMES_FROM: dict[MadeFrom, Reason] = {
    "parts": Reason(Fate.DERIVED, Why.NAME_FROM_PARTS, "name"),
    "org": Reason(Fate.DERIVED, Why.NAME_FROM_ORG, "name"),
    "nickname": Reason(Fate.DERIVED, Why.NAME_FROM_NICKNAME, "name"),
    "email": Reason(Fate.DERIVED, Why.NAME_FROM_EMAIL, "name"),
    "phone": Reason(Fate.DERIVED, Why.NAME_FROM_PHONE, "name"),
    "rest": Reason(Fate.DERIVED, Why.NAME_FROM_REST, "name"),
}
NAMES_MADE = tuple(_NAMES_FROM.values())
"""The reasons of whole names that were made of what else is there."""

_numbers: dict[Reason, int] = {}
_reasons: list[Reason] = []
"""Reasons by their number less one: those that origins carry in this process."""


def number_of(reason: Reason) -> int:
    """The number of a reason, from 1, for origins to carry; it holds in this process only."""
    number = _numbers.get(reason)
    if number is None:
        if len(_reasons) >= MOST_REASONS:
            return number_of(Reason(reason.fate, Why.OTHER))
        _reasons.append(reason)
        number = _numbers[reason] = len(_reasons)
    return number


def reason_of(number: int) -> Reason:
    """The reason of a number that `number_of` gave."""
    return _reasons[number - 1]


def changed_by(origin: int, reason: Reason) -> int:
    """The origin of a value that a rule changed; see `roundcard.card.origin.changed`."""
    return changed(origin, number_of(reason))


def added_by(reason: Reason) -> int:
    """The origin of a value that is added."""
    return added(number_of(reason))


def derived_by(reason: Reason) -> int:
    """The origin of a value that is made from others of its contact."""
    return derived(number_of(reason))


for _fate in Fate:  # the first numbers, so that there is one left for each fate
    number_of(Reason(_fate, Why.OTHER))
