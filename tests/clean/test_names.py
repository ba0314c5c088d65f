"""Names: their letter case, and whole names in their parts."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from books_in_tests import card, read_cards
from roundcard.clean import splitting
from roundcard.clean.book_conventions import habits_of
from roundcard.clean.name_words import is_organisation
from roundcard.clean.names import cased
from roundcard.clean.rule import Around, Rule
from roundcard.clean.rules import chosen
from roundcard.clean.splitting import split_name

CASED = [
    ("DEMİR", "Demir"),
    ("ADA WEIR", "Ada Weir"),
    ("ada weir", "Ada Weir"),
    ("O'DWYER", "O'Dwyer"),
    ("O’DWYER", "O’Dwyer"),
    ("o'dwyer-mccabe", "O'Dwyer-McCabe"),
    ("MCCABE", "McCabe"),
    ("MCDONALD", "McDonald"),
    ("MACDONALD", "Macdonald"),
    ("MAC DONALD", "Mac Donald"),
    ("JEAN-BAPTISTE", "Jean-Baptiste"),
    ("ANNE-MARIE WEIR-LOCK", "Anne-Marie Weir-Lock"),
    ("D'ARTAGNAN", "D'Artagnan"),
    ("DELL'ACQUA", "Dell'Acqua"),
    ("'T HART", "'t Hart"),
    ("JAN 'T HART", "Jan 't Hart"),
    ("JAN VAN DER BERG", "Jan van der Berg"),
    ("VAN DER BERG", "Van der Berg"),
    ("LUDWIG VON WEIR", "Ludwig von Weir"),
    ("MARIA VON UND ZU LOCK", "Maria von und zu Lock"),
    ("JEAN DE LA TOUR", "Jean de la Tour"),
    ("MARÍA DE LA CRUZ", "María de la Cruz"),
    ("JOSÉ GARCÍA Y VEGA", "José García y Vega"),
    ("JOÃO DOS SANTOS", "João dos Santos"),
    ("ABDUL BIN AHMED", "Abdul bin Ahmed"),
    ("YUSUF AL HASAN", "Yusuf al Hasan"),
    ("ÅSA ÖBERG", "Åsa Öberg"),
    ("MÜLLER-LÜDENSCHEID", "Müller-Lüdenscheid"),
    ("ŁUKASZ ŻÓŁĆ", "Łukasz Żółć"),
    ("ИВАН ИВАНОВ", "Иван Иванов"),
    ("JOHN WEIR II", "John Weir II"),
    ("JOHN WEIR III", "John Weir III"),
    ("JOHN WEIR JR", "John Weir Jr"),
    ("JOHN WEIR SR.", "John Weir Sr"),
    ("ADA WEIR PHD", "Ada Weir PhD"),
    ("ADA WEIR OBE", "Ada Weir OBE"),
    ("J. R. WEIR", "J. R. Weir"),
    ("DR. ADA WEIR", "Dr. Ada Weir"),
    ("ST. MARY", "St. Mary"),
    ("IJSBRAND", "IJsbrand"),
    ("NÍ BHRIAIN", "Ní Bhriain"),
    ("CUTT ST MARY", "Cutt St Mary"),
    ("WITHY-ON-SEA", "Withy-On-Sea"),
]

SAME_CASE = [
    "Ada Weir", "van der Berg", "McCabe", "O'Dwyer", "de Witt", "HALAGEUR Anaïs", "Li", "X",
    "山田 太郎", "محمد", "ΓΙΩΡΓΟΣ", "bell Hooks", "e", "42", "DiCaprio", "LaToya", "MacDonald",
]  # fmt: skip

WESTERN = [
    ("Joan Quer i Puig", "given Joan · family Quer i Puig"),
    ("José Ortega y Gasset", "given José · family Ortega y Gasset"),
    ("Cathal Ó Faoláin", "given Cathal · family Ó Faoláin"),
    ("Снегирёва Ольга Савельевна", "given Ольга · additional Савельевна · family Снегирёва"),
    ("Ivan Petrovich Sidorov", "given Ivan · additional Petrovich · family Sidorov"),
    ("Ada Weir", "given Ada · family Weir"),
    ("Ada Mary Weir", "given Ada · additional Mary · family Weir"),
    ("Mary Ann Weir", "given Mary · additional Ann · family Weir"),
    ("J. R. Weir", "given J. · additional R. · family Weir"),
    ("J.R. Weir", "given J.R. · family Weir"),
    ("JR Weir", "given JR · family Weir"),
    ("G. Poundstone", "given G. · family Poundstone"),
    ("Weir J R", "given J · additional R · family Weir"),
    ("Zara O'Leary-Weir", "given Zara · family O'Leary-Weir"),
    ("Joan McTowpath", "given Joan · family McTowpath"),
    ("Jean-Baptiste Halageur", "given Jean-Baptiste · family Halageur"),
    ("clive ironweir", "given clive · family ironweir"),
    ("WINIFRED GONGOOZLE", "given WINIFRED · family GONGOOZLE"),
    ("Łucja Śluzowa", "given Łucja · family Śluzowa"),
    ("Иван Петров", "given Иван · family Петров"),
    ("Jack Ma", "given Jack · family Ma"),
    ("Amartya Sen", "given Amartya · family Sen"),
    ("Jun Tanaka", "given Jun · family Tanaka"),
    ("Charlotte Church", "given Charlotte · family Church"),
]
WITH_COMMA = [
    ("Weir, Ada", "given Ada · family Weir"),
    ("Weir, Ada Mary", "given Ada · additional Mary · family Weir"),
    ("WEIR, Ada", "given Ada · family WEIR"),
    ("Gatepaddle, Thomas sen.", "given Thomas · family Gatepaddle · suffix sen."),
    ("O'Culvert, Rhiannon", "given Rhiannon · family O'Culvert"),
    ("García López, María", "given María · family García López"),
    ("van der Berg, Jan", "given Jan · family van der Berg"),
    ("Berg, Jan van der", "given Jan · family van der Berg"),
    ("Weir, Dr. Ada", "prefix Dr. · given Ada · family Weir"),
    ("Weir, Ada, Dr", "prefix Dr · given Ada · family Weir"),
    ("Weir, Ada, PhD", "given Ada · family Weir · suffix PhD"),
    ("Ada Weir, PhD", "given Ada · family Weir · suffix PhD"),
    ("Ada Weir, PhD, OBE", "given Ada · family Weir · suffix PhD OBE"),
    ("Nagy, István", "given István · family Nagy"),
]
TITLES = [
    ("Dr.-Ing. habil. Jörg Wendel", "prefix Dr.-Ing. habil. · given Jörg · family Wendel"),
    ("Freiherr Otto von Hagen", "prefix Freiherr · given Otto · family von Hagen"),
    ("The Hon. Ada Quern", "prefix The Hon. · given Ada · family Quern"),
    ("Mrs Dilys Eelbrook", "prefix Mrs · given Dilys · family Eelbrook"),
    ("Dr. Liz MacSluice", "prefix Dr. · given Liz · family MacSluice"),
    ("DR ELIZABETH MACSLUICE OBE",
     "prefix DR · given ELIZABETH · family MACSLUICE · suffix OBE"),
    ("Dr. med. Anna Huber", "prefix Dr. med. · given Anna · family Huber"),
    ("Prof. Dr. Hans Meier", "prefix Prof. Dr. · given Hans · family Meier"),
    ("Dipl.-Ing. Karl Weber", "prefix Dipl.-Ing. · given Karl · family Weber"),
    ("Mme Éloïse Quainé", "prefix Mme · given Éloïse · family Quainé"),
    ("Sr. Pedro Gómez", "prefix Sr. · given Pedro · family Gómez"),
    ("Tom Gatepaddle jun.", "given Tom · family Gatepaddle · suffix jun."),
    ("Ada Weir Jr.", "given Ada · family Weir · suffix Jr."),
    ("Ada Weir III", "given Ada · family Weir · suffix III"),
    ("Ada Weir BA", "given Ada · family Weir · suffix BA"),
    ("Mr Weir", "prefix Mr · family Weir"),
    ("Frau Dr. Schmidt", "prefix Frau Dr. · family Schmidt"),
]  # fmt: skip
PARTICLES = [
    ("JAN VAN DER BERG", "given JAN · family VAN DER BERG"),
    ("Jan VAN Dyck", "given Jan · family VAN Dyck"),
    ("van der Berg, Jan", "given Jan · family van der Berg"),
    ("Петров Иван", "given Иван · family Петров"),
    ("Maria de Fátima Silva", "given Maria · additional de Fátima · family Silva"),
    ("María del Carmen de la Vega", "given María · additional del Carmen · family de la Vega"),
    ("Desmond St John", "given Desmond · family St John"),
    ("Me Gaspard Batelier", "prefix Me · given Gaspard · family Batelier"),
    ("Gräfin Edda von Wehr", "prefix Gräfin · given Edda · family von Wehr"),
    ("Father Brown", "prefix Father · family Brown"),
    ("Anna Test", "given Anna · family Test"),
    ("Dean Weir", "given Dean · family Weir"),
    ("Anna P.", "given Anna · family P."),
    ("Weir P.", "given P. · family Weir"),
    ("Lord Weir", "prefix Lord · family Weir"),
    ("Dave Plumber", "given Dave · family Plumber"),
    ("Joost 't Veer", "given Joost · family 't Veer"),
    ("Joost v.d. Berg", "given Joost · family v.d. Berg"),
    ("Karl v. Wehr", "given Karl · family v. Wehr"),
    ("Wehr, Karl v.", "given Karl · family v. Wehr"),
    ("KARL V. WEHR", "given KARL · additional V. · family WEHR"),
    ("Marina Weir", "given Marina · family Weir"),
    ("Weir, Marina", "given Marina · family Weir"),
    ("Phil Weir", "given Phil · family Weir"),
    ("Bo van Nee", "given Bo · family van Nee"),
    ("Jan van der Berg", "given Jan · family van der Berg"),
    ("Vincent Van Gogh", "given Vincent · family Van Gogh"),
    ("Ludwig von Beet", "given Ludwig · family von Beet"),
    ("Charles de la Berge", "given Charles · family de la Berge"),
    ("João da Silva", "given João · family da Silva"),
    ("Ana dos Santos", "given Ana · family dos Santos"),
    ("Leonardo da Vinci", "given Leonardo · family da Vinci"),
    ("Ahmad bin Abdullah", "given Ahmad · family bin Abdullah"),
    ("Ali ibn Sina", "given Ali · family ibn Sina"),
    ("Omar al-Rashid", "given Omar · family al-Rashid"),
    ("Dafydd ap Gwilym", "given Dafydd · family ap Gwilym"),
    ("Ian Mac Donald", "given Ian · family Mac Donald"),
    ("de la Cruz", "family de la Cruz"),
]
OTHER_ORDERS = [
    ("VANNIER-LÉCLUSE Hélène", "given Hélène · family VANNIER-LÉCLUSE"),
    ("Margaret POUNDSTONE", "given Margaret · family POUNDSTONE"),
    ("de la BERGE Zoé", "given Zoé · family de la BERGE"),
    ("Nguyễn Văn An", "given An · additional Văn · family Nguyễn"),
    ("山田 太郎", "family 山田 · given 太郎"),
    ("山田太郎", "family 山田 · given 太郎"),
    ("佐々木花子", "family 佐々木 · given 花子"),
    ("山田\u3000太郎 様", "family 山田 · given 太郎 · suffix 様"),
    ("李明", "family 李 · given 明"),
    ("欧阳小明", "family 欧阳 · given 小明"),
    ("김민수", "family 김 · given 민수"),
    ("남궁민수", "family 남궁 · given 민수"),
    ("アンナ・シュミット", "family シュミット · given アンナ"),
]
LEFT_WHOLE = ["Reception Desk", "Autohaus Brehm", "Ristorante da Gino",
    "Sluice Bros", "Stadtwerke Wehrau", "ООО Ива", "Lost Property", "Withy Marina",
    "Ecole Wehr", ",", ", ,", "Weir,",
    "Cher", "Withy Canal Trust", "Pumphouse Brewery", "Weir Ltd", "Weir & Sons Ltd", "Weir GmbH",
    "Gesamtschule am Kanal", "The Lock House", "株式会社水門", "水門小学校", "Sir Elton", "", "42",
    "lock.keeper.42@example.org", "Boat 7", "Mrs", "Pumphouse Brewery (Mr Fenwater)",
]  # fmt: skip
IN_DOUBT = [
    ("Family Whitby", "a household"),
    ("Klaus u. Petra Sommer", "two people in one name"),
    ("Bob & Peggy Poundstone", "two people in one name: Bob Poundstone and Peggy Poundstone"),
    ("Mr and Mrs Weir", "two people in one name: Mr Weir and Mrs Weir"),
    ("Herr und Frau Weber", "two people in one name: Herr Weber and Frau Weber"),
    ("Plumber Weir", "it may be no name of a person"),
    ("Kinderhaus Sonnenschein", "it may be no name of a person"),
    ("Sportclub De Wilg", "it may be no name of a person"),
    ("Anna's Mum", "it may be no name of a person"),
    ("Tom Mobile", "it may be no name of a person"),
    ("Tierklinik Weidenbach", "it may be no name of a person"),
    ("Wibbel Anna Weir", "its first word may be a title"),
    ("Bin Collection", "it may be no name of a person"),
    ("Test Test", "it may be no name of a person"),
    ("Village Clerk", "it may be no name of a person"),
    ("Anna work", "it may be no name of a person"),
    ("Wibbel tolbert", "what is written small may be no name"),
    ("Bob && Peggy Weir", "two people in one name: Bob Weir and Peggy Weir"),
    ("Weir, Ada & Tom", "two people in one name: Ada Weir and Tom Weir"),
    ("Ada Weir / Tom Lock", "two people in one name: Ada Weir and Tom Lock"),
    ("María y José García", "two people in one name: María García and José García"),
    ("Kate Sedgewater (née Rushmere)", "more than a name"),
    ('Robert "Bob" Weir', "more than a name"),
    ("Nagy István", "which word is the family name"),
    ("Tanaka Jun", "which word is the family name"),
    ("Wang Wei", "which word is the family name"),
    ("María García López", "which words are the family name"),
    ("Ada Weir, London", "behind the comma"),
    ("Weir, Ada, Tom, Bo", "several commas"),
    ("林太郎", "without a space"),
    ("水門陽子", "without a space"),
]
WHERE_TOLD = [
    ("M. Jean-Luc Perrault", "FR", "", "prefix M. · given Jean-Luc · family Perrault"),
    ("Nagy István", "HU", "", "given István · family Nagy"),
    ("Nagy István", "", "family", "given István · family Nagy"),
    ("Ada Weir", "", "family", "given Weir · family Ada"),
    ("Wang Wei", "CN", "", "given Wei · family Wang"),
    ("Trần Bình Minh", "VN", "", "given Minh · additional Bình · family Trần"),
    ("María García López", "ES", "", "given María · family García · family2 López"),
    ("Nagy István", "", "given", "given Nagy · family István"),
]


@pytest.mark.parametrize(
    ("whole", "parts"), [*WESTERN, *WITH_COMMA, *TITLES, *PARTICLES, *OTHER_ORDERS]
)
def test_whole_names_in_parts(whole: str, parts: str) -> None:
    found = split_name(whole)
    assert found.shown() == parts
    assert not found.doubt


ORGANISATIONS = ["有限会社 加藤", "水門 株式会社", "加藤商店", "Vodní stavby s.r.o.",
                 "Rapid Sport-Club", "Conti S.r.l.", "Brzeziński Sp. z o.o.",
                 "Turnverein e.V."]  # fmt: skip
PERSONS = [
    "Jane Ashton-Bank",
    "Petrov S.A.",
    "Петров С.А.",
    "田中 花子",
    "李会",
    "Ana B.",
    "Ada Weir, MBA",
]


@pytest.mark.parametrize("name", [*ORGANISATIONS, *PERSONS])
def test_names_of_organisations_are_told_from_those_of_people(name: str) -> None:
    assert is_organisation(name) == (name in ORGANISATIONS)


@pytest.mark.parametrize("whole", LEFT_WHOLE)
def test_what_is_no_name_of_one_person_stays_whole(whole: str) -> None:
    assert split_name(whole) == ((), "")


@pytest.mark.parametrize(("whole", "doubt"), IN_DOUBT)
def test_names_that_can_be_read_in_two_ways_are_told(whole: str, doubt: str) -> None:
    found = split_name(whole)
    assert found.parts == ()
    assert doubt in found.doubt


@pytest.mark.parametrize(("whole", "region", "order", "parts"), WHERE_TOLD)
def test_region_and_book_tell_the_order(whole: str, region: str, order: str, parts: str) -> None:
    assert split_name(whole, region, order).shown() == parts


PLAIN = ["Ada", "Weir", "ADA", "WEIR", "Owen", "Sluis-Bank", "O'Culvert", "Lécluse", "Müßig",
         "Phil", "Baronin", "Nee", "Alias", "Ivanovna", "Ben", "Nguyen", "Sport-Club", "The", "Ltd",
         "Obe", "van", "VAN", "der", "de", "la", "den", "das", "ben", "le", "y", "Mac",
         "d'"]  # fmt: skip


@given(
    st.lists(st.sampled_from(PLAIN), min_size=2, max_size=5),
    st.booleans(),
    st.sampled_from(["", "GB", "ES", "HU"]),
)
def test_what_is_told_word_by_word_is_what_all_rules_say(
    words: list[str], turned: bool, region: str
) -> None:
    if turned:
        words[-2] += ","
    plain = splitting._plain(words, known=False)
    if plain is not None and region != "HU":
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr(splitting, "_plain", lambda _, known: None)
            assert split_name(" ".join(words), region) == plain


WORDS = ["Ada", "Weir", "van", "Dr.", "&", ",", "(", "III", "山田", "O'Leary", "é", "Ltd", "\u200d"]


@given(st.lists(st.sampled_from(WORDS) | st.text(max_size=8), max_size=6))
def test_no_word_of_a_name_is_lost_or_made_up(words: list[str]) -> None:
    whole = " ".join(" ".join(words).split())
    found = split_name(whole)
    if found.parts and not any("\u3040" <= char <= "\uffff" for char in whole):
        said = sorted("".join(text for _, text in found.parts).replace(" ", ""))
        assert said == sorted(whole.replace(",", "").replace(" ", ""))


def name_case() -> Rule:
    (rule,) = chosen(["name-case"], [])
    assert isinstance(rule, Rule)
    return rule


@pytest.mark.parametrize(("before", "after"), CASED)
def test_names_that_shout(before: str, after: str) -> None:
    assert cased(before) == after
    around = Around("name/full", uniform=frozenset({"name/full"}))
    assert name_case().judge(before, around).text == after
    quiet = name_case().judge(before, Around("name/full"))
    assert quiet.text is None  # where others of the field do not shout
    assert bool(quiet.doubt) is (" " in before or before.islower())


@pytest.mark.parametrize("name", SAME_CASE)
def test_names_that_are_left(name: str) -> None:
    around = Around("name/full", uniform=frozenset({"name/full"}))
    assert name_case().judge(name, around).text is None


def test_a_field_shouts_where_nearly_all_of_it_does() -> None:
    shouting = [card(f"N:WEIR{n};Ada;;;", f"FN:Ada WEIR{n}") for n in range(9)]
    book = read_cards("".join([*shouting, card("N:Lock;Bo;;;", "FN:Bo Lock")]))
    assert habits_of(book).uniform == {"name/family"}
    assert habits_of(book[:3]).uniform == frozenset()


def test_a_book_of_known_given_names_tells_that_one_without_is_odd() -> None:
    known = [card(f"FN:Anna Quib{letter}") for letter in "abcdefghijklmnopqrstuvwxyz"] * 2
    odd = [card("FN:Wibbel Tolbert")]
    assert habits_of(read_cards("".join(known + odd))).known_names
    assert not habits_of(read_cards("".join(known[:30] + odd))).known_names  # too few
    assert not habits_of(read_cards("".join(known + odd * 3))).known_names  # too many odd ones
    for name, parts in (("Wibbel Tolbert", 0), ("Tolbert, Wibbel", 2), ("Anna Quib", 2)):
        assert len(split_name(name, known=True).parts) == parts
    assert split_name("Wibbel Tolbert", known=True).doubt.startswith("it holds no known given")
    assert len(split_name("Wibbel Tolbert").parts) == 2


def test_a_book_tells_that_its_family_names_stand_first() -> None:
    whole = ["Weir John", "Lock Margaret", "Petrov Thomas", "Poundstone Mary", "Sluice Anna"]
    book = read_cards("".join(card(f"FN:{name}") for name in [*whole, "Ada Weir"]))
    assert habits_of(book).orders == {"name/full": "family"}
    assert habits_of(book[:4]).orders == {}
    assert habits_of(book, {"name/full": "given"}).orders == {"name/full": "given"}
