"""Books that hypothesis makes up."""

from __future__ import annotations

from hypothesis import strategies as st

from roundcard.card.contact import Contact, Property
from roundcard.card.head import head, typed
from roundcard.card.origin import pack

text = st.text(
    st.characters(exclude_categories=["Cs", "Cc"], include_characters="\n"), min_size=1, max_size=30
).filter(lambda t: t.strip() and t == t.strip())
line = text.map(lambda t: t.replace("\n", " "))
component = st.one_of(st.just(""), line, st.tuples(line, line))
uses = st.lists(st.sampled_from(["home", "work", "cell", "fax"]), unique=True, max_size=2)
BASE = pack(0, 1)


def prop(name: str, value: st.SearchStrategy[object]) -> st.SearchStrategy[Property]:
    return st.builds(lambda v: Property(head(name), v, BASE), value)


def phones() -> st.SearchStrategy[Property]:
    return st.builds(
        lambda u, v, p: Property(typed("tel", tuple(u), preferred=p), v, BASE),
        uses,
        line,
        st.booleans(),
    )


contacts = st.builds(
    lambda fn, n, rest: Contact([fn, n, *rest], BASE),
    prop("fn", text),
    prop("n", st.tuples(component, component, component, component, component)),
    st.lists(
        st.one_of(
            phones(),
            prop("email", line),
            prop("note", text),
            prop("adr", st.tuples(*[component] * 7).filter(any)),
            prop("org", st.tuples(line, line)),
            prop("categories", st.lists(line, min_size=1, max_size=3).map(tuple)),
            prop("x-roundcard-custom", st.tuples(line, text)),
            prop("bday", st.sampled_from(["1980-04-12", "--04-12", "1980", "in spring"])),
            prop("gender", st.just(("F", "lady"))),
            prop("photo", st.just("data:image/png;base64,iVBORw0=")),
        ),
        max_size=6,
    ),
)
