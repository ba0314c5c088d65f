"""The step of fitting that sees to allowed values."""

from __future__ import annotations

from roundcard.card.contact import Property
from roundcard.card.fields import CUSTOM
from roundcard.card.head import head, with_params
from roundcard.card.paths import FieldPath
from roundcard.destinations.desk import GONE, Desk
from roundcard.destinations.model import Allowed, Destination
from roundcard.destinations.pieces import all_changed, custom_label, path_at, piece_of, remade
from roundcard.destinations.room import Refused, without
from roundcard.tally import Fate, Reason, Why, changed_by
from roundcard.values.text import loosely

_PAGED = frozenset({"fax", "pager"})
"""Uses of numbers at which nobody speaks."""
_NOT_ALLOWED = Reason(Fate.LEFT_BEHIND, Why.NOT_ALLOWED)
_LONG = 40
"""Characters of a text from which a reason does not repeat it."""


class Allowing:
    """Holds values against those that a destination allows; of a value with several uses the first
    allowed one is kept, and no voice number is made of a fax or pager."""

    def __init__(self, to: Destination) -> None:
        self.to = to
        self.allowed = {path: [loosely(each) for each in said.values]
                        for path, said in to.allowed.items()}  # fmt: skip

    def __call__(self, work: Desk) -> None:
        """Give each value a use, or a text, that is allowed, or refuse it."""
        for path, allowed in self.to.allowed.items():
            for at, prop in enumerate(work.props):
                if prop.head.field.path != path.field or prop.rides or not prop.size():
                    continue
                if (
                    path.field == "custom"
                    and custom_label(prop).casefold() != path.label.casefold()
                ):
                    continue
                if path.part == "use":
                    work.props[at] = self._use(work, prop, allowed, path)
                else:
                    work.props[at] = self._value(work, prop, allowed, path)
            work.props = [prop for prop in work.props if prop is not GONE]

    def _use(self, work: Desk, prop: Property, allowed: Allowed, path: FieldPath) -> Property:
        """The value with a use that is allowed, or nothing."""
        words = [word.casefold() for word in allowed.values]
        label = work.label_of(prop)
        uses = [use for use in prop.head.field.uses if use in prop.head.uses]
        if not (uses or label) or (not label and "+".join(uses) in words):
            return prop
        if label and label.casefold() in words:
            return prop
        chosen = next((use for use in uses if use in words), "")
        if not chosen:
            chosen = allowed.otherwise.casefold()
        paged = not _PAGED.isdisjoint(uses)
        if not chosen or (paged and _PAGED.isdisjoint(chosen.split("+"))):
            work.refused.append(Refused(prop, _NOT_ALLOWED))
            return GONE
        said = label or "+".join(uses)
        reason = Reason(Fate.CHANGED, Why.ALLOWED_OTHERWISE, f"{path.field}/use",
                        (said if len(said) < _LONG else "label", chosen))  # fmt: skip
        work.tell(Fate.CHANGED, reason.rule, str(path), said, chosen)
        kept = tuple(use for use in prop.head.param("type") if use not in prop.head.field.uses)
        made = with_params(prop.head, type=(*chosen.split("+"), *kept))
        made = head(made.name, made.params, "" if label else made.group)
        return Property(made, prop.value, all_changed(prop, reason))

    def _value(self, work: Desk, prop: Property, allowed: Allowed, path: FieldPath) -> Property:
        known = self.allowed[path]
        values, origins = list(prop.components), list(prop.origins())
        gone = []
        for at, text in enumerate(prop.components):
            here = path_at(prop, at)
            if not isinstance(text, str) or not text or here.part != path.part:
                continue
            if (prop.head.name == CUSTOM and at == 0) or loosely(text) in known:
                continue
            if not allowed.otherwise:
                gone.append(at)
                continue
            reason = Reason(Fate.CHANGED, Why.ALLOWED_OTHERWISE, path.field,
                            (text if len(text) < _LONG else "…", allowed.otherwise))  # fmt: skip
            work.tell(Fate.CHANGED, reason.rule, str(path), text, allowed.otherwise)
            values[at] = allowed.otherwise
            one = origins[at]
            origins[at] = changed_by(one if isinstance(one, int) else one[0], reason)
        made = remade(prop, values, origins) if values != list(prop.components) else prop
        if not gone:
            return made
        whole = len(prop.components) == len(gone) or prop.head.field.kind not in ("list", "parts")
        piece = made if whole else piece_of(made, gone)
        work.refused.append(Refused(piece, _NOT_ALLOWED))
        rest = without([made], [piece])
        return rest[0] if rest and rest[0].size() else GONE
