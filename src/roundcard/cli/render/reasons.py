"""What reasons of the ledger are in words: the only place where sentences are made of them."""

from __future__ import annotations

from roundcard.tally import Fate, Reason, Why

SENTENCES: dict[str, str] = {
    Why.OTHER: "other reasons",
    Why.UNSAID: "no reason given",
    Why.ABOVE_HEADINGS: "above the headings of {0}",
    Why.EXPLAINS_HEADINGS: "the row that explains the headings of {0}",
    Why.UNREADABLE: "{0}",
    Why.COLUMN_SKIPPED: "column '{0}'",
    Why.COLUMN_UNLISTED: "column '{0}' (not listed)",
    Why.COLUMN_FIXED: "column '{0}' (the layout says it of everybody)",
    Why.MEANS_NOTHING: "column '{0}': means nothing (the layout's 'empty')",
    Why.NOTHING_WANTED: "nothing but columns that are left out",
    Why.CONDITION: "condition",
    Why.NOT_PICKED: "not picked",
    Why.PICKED: "picked",
    Why.NOT_CHOSEN: "fields not chosen with --only",
    Why.NOTHING_CHOSEN: "nothing of them is chosen",
    Why.NOTHING_LEFT: "nothing of them is left after cleaning",
    Why.CATEGORY_REMOVED: "category '{0}' removed",
    Why.ROW_DELETED: "row deleted in the sheet",
    Why.EMPTIED: "emptied in the sheet",
    Why.IN_BOOK: "in the book already",
    Why.MADE_BY_MERGE: "made by the merge that is taken back",
    Why.AS_DELIVERED: "there since an earlier run, as it should be",
    Why.STANDS_THERE: "the destination's own value stands",
    Why.AWAY_THERE: "removed at the destination",
    Why.BLIND: "not known what the destination holds of them",
    Why.VALUE_ASKED: "a value of which it is asked",
    Why.PERSON_ASKED: "it is asked who they are",
    Why.WHOLE_SAYS_PARTS: "the whole name says its parts",
    Why.PARTS_SAY_WHOLE: "the whole name says what its parts say",
    Why.SAID_BY_LAYOUT: "the layout says it of everybody",
    Why.GROUP_IN_CATEGORIES: "a group, said by the category of its members",
    Why.CATEGORY_OF_GROUP: "a category that its group says",
    Why.CATEGORY_MERGED: "category '{0}' merged",
    Why.MERGED_PERSON: "merged into the same person",
    Why.SAME_ELSEWHERE: "the same in another record",
    Why.IN_FULL_ELSEWHERE: "said in full in another record",
    Why.MERGED_UID: "the identity of a record that was merged",
    Why.MERGED_REVISED: "an older date of change",
    Why.MERGED_CREATED: "a later date of making",
    Why.MERGED_KIND: "what kind of contact it is",
    Why.MEMBER_MERGED: "a member that was merged with another one",
    Why.SAID_IN_ONE: "said in one with another part",
    Why.NO_COLUMN: "no column",
    Why.NO_FREE_COLUMN: "no free column",
    Why.NO_COLUMN_FOR_PART: "no column for {0}",
    Why.NO_COLUMN_FOR_NAME_PART: "no column for this part",
    Why.NO_COLUMN_FOR_WHOLE_NAME: "no column for the whole name",
    Why.NO_COLUMN_FOR_SECOND_NAME: "no column for a second name",
    Why.NO_COLUMN_FOR_SOUND: "no column for how it sounds",
    Why.NO_COLUMN_FOR_SCRIPT: "no column for it in another script",
    Why.NO_COLUMN_FOR_LABEL: "no column for the text on an envelope",
    Why.NO_COLUMNS_FOR_DATE: "no column for all of the date",
    Why.NO_CHARACTERS: "no characters for it in {0}",
    Why.SEPARATES_THERE: "contains '{0}', which separates values there",
    Why.TOO_LONG: "longer than the {0} characters that a cell holds",
    Why.CELL_FULL: "no room left in the cell",
    Why.NO_COLUMN_FOR_PERSON: "nothing of them has a column",
    Why.GROUP_NOT_WHOLE: "a group, of which not all members are here",
    Why.ANOTHER_TAKEN: "another one was taken (kept in the merge record)",
    Why.BOOK_HAS_OWN: "the book has its own (--update {field}=add takes both)",
    Why.REPLACED: "replaced (--update {field}=replace)",
    Why.COLUMN_VALUES: "values of column '{0}'",
    Why.COLUMN_DATES: "dates of column '{0}'",
    Why.USE_LOST: "use or label not kept",
    Why.PARAMETERS_LOST: "parameters not kept",
    Why.BLANKS_LOST: "blanks around a value of a list not kept",
    Why.PREFERENCE_LOST: "preference not kept",
    Why.PARTS_JOINED: "several values in one part joined",
    Why.STREET_JOINED: "street lines joined",
    Why.BYTES_REPAIRED: "bytes that are not {0} read as windows-1252",
    Why.HALF_CHARACTER: "half a character (a lone surrogate) replaced",
    Why.NOT_BASE64: "said to be in base64, which it is not; kept as it stands",
    Why.CONTROLS_REPLACED: "control characters replaced by spaces",
    Why.GROUP_NAME_LOST: "the name of its group, which is none by the standard, left off",
    Why.CHARSET_UNKNOWN: "the character set '{0}' is unknown; read as utf-8",
    Why.EDITED: "edited in the sheet",
    Why.NAME_FOLLOWS: "whole name follows its parts in the sheet",
    Why.CATEGORY_RENAMED: "category '{0}' renamed '{1}'",
    Why.POINTS_ANEW: "{field}: points at the merged contact",
    Why.KEPT_BESIDE: "kept beside the value that was taken",
    Why.AS_BEFORE: "as it was before the merge",
    Why.RIDES_IN_NOTE: "rides in the note",
    Why.DROPPED_THERE: "not kept there",
    Why.NOT_ALLOWED: "not allowed there",
    Why.OVER_LIMIT: "more than the {0} that it takes",
    Why.TOO_LONG_THERE: "too long for it, and no beginning of it says anything",
    Why.LACKS_NEEDED: "without {0}",
    Why.TOO_BIG_THERE: "more than the {0} bytes that a file may have",
    Why.OUT_OF_NOTE: "out of the note in which it rode",
    Why.STYLED: "in the form that it wants",
    Why.NEAREST: "nearest letters in {0}",
    Why.ON_ONE_LINE: "line breaks as ' / '",
    Why.ALLOWED_OTHERWISE: "'{0}' as '{1}', which is allowed",
    Why.CUT: "cut to its length there",
    Why.PARTS_FROM_NAME: "parts out of the whole name",
    Why.IDENTITY: "our identity in '{field}'",
    Why.COLUMNS_FIXED: "fixed columns",
    Why.BY_LAYOUT: "{field} '{0}' (layout)",
    Why.BY_GROUP: "category '{0}' of its group",
    Why.SET: "{field} '{0}'",
    Why.IN_SHEET: "{field} in the sheet",
    Why.NEW_PEOPLE: "new people",
    Why.FROM_BEFORE: "as it stood before",
    Why.FROM_THERE: "as the destination has it",
    Why.RESTORED: "kept, since the export is damaged",
    Why.FROM_RECORD: "taken back from the merge record",
    Why.NAME_FROM_PARTS: "whole name from its parts",
    Why.NAME_FROM_ORG: "whole name from the organisation",
    Why.NAME_FROM_NICKNAME: "whole name from the nickname",
    Why.NAME_FROM_EMAIL: "whole name from the e-mail address",
    Why.NAME_FROM_PHONE: "whole name from the phone number",
    Why.NAME_FROM_REST: "whole name from what there is",
}
"""What each rule that is no cleaning rule says, with what varies."""

FATES: dict[Fate, str] = {
    Fate.PASSED_OVER: "passed over",
    Fate.SET_ASIDE: "set aside",
    Fate.LEFT_OUT: "left out by you",
    Fate.FOLDED: "said twice",
    Fate.LEFT_BEHIND: "left behind",
    Fate.NOT_SENT: "not sent",
    Fate.HELD_BACK: "held back",
    Fate.REFUSED: "set aside by the service",
    Fate.CHANGED: "changed by rule",
    Fate.SPLIT: "separated",
    Fate.ADDED: "added",
    Fate.DERIVED: "derived",
}
"""How the balance names the fates."""

EXPLAINED: dict[Fate, str] = {
    Fate.PASSED_OVER: "read, but nobody's",
    Fate.SET_ASIDE: "could not be read; kept in a file beside the target",
    Fate.LEFT_OUT: "you or the layout said so",
    Fate.FOLDED: "an equal value is in the target",
    Fate.LEFT_BEHIND: "the target has no place for it; kept in a file beside the target",
    Fate.NOT_SENT: "the destination would refuse them; kept in a file beside the target",
    Fate.HELD_BACK: "asked about, and not answered yet",
    Fate.REFUSED: "the service refused it",
    Fate.SPLIT: "further values that one text became",
    Fate.ADDED: "in no source",
    Fate.DERIVED: "made from other values, which are still there",
}
"""What the terms of the balance mean, in a few words."""


def sentence(reason: Reason) -> str:
    """A reason in words, without the name of its fate."""
    said = SENTENCES.get(reason.rule)
    if said is None:
        return _of_cleaning(reason)
    told = said.format(*reason.details, field=reason.field)
    return f"{reason.field}: {told}" if reason.fate is Fate.LEFT_BEHIND and reason.field else told


def _of_cleaning(reason: Reason) -> str:
    """A cleaning rule goes by its own name."""
    if reason.fate is Fate.CHANGED:
        return reason.rule
    if reason.fate is Fate.DERIVED:
        return f"{reason.field}: {reason.rule} (rule)"
    return f"{reason.rule} (rule)"
