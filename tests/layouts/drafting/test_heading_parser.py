"""Headings in many languages and habits, without a cell to help."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from roundcard.formats.csv import Dialect
from roundcard.layouts.drafting.draft import Draft, draft_layout
from roundcard.layouts.drafting.heading_parser import known_headings, languages_of, read_headings
from roundcard.layouts.drafting.profile import profile_rows
from roundcard.layouts.drafting.words import spellings, tokens

TOKENS = [
    ("emailAddress_2", ["email", "address", "2"]),
    ("HomePhone2", ["home", "phone", "2"]),
    ("E-Mail", ["e", "mail"]),
    ("PLZ/Ort", ["plz", "ort"]),
    ("GebDatum", ["geb", "datum"]),
    ("Straße", ["strasse"]),
    ("N° d’adhérent", ["nr", "d", "adherent"]),
    ("№ п/п", ["nr", "п", "п"]),
    ("Ýmir Ðögg", ["ymir", "dogg"]),
    ("Łódź", ["lodz"]),
    ("ＴＥＬ", ["tel"]),
    ("電話番号", ["電話番号"]),
    ("Cell #", ["cell", "nr"]),
    ("जन्म तिथि", ["जन्म", "तिथि"]),
    ("ADDR_LN_1", ["addr", "ln", "1"]),
    ("  ", []),
]


@pytest.mark.parametrize(("heading", "words"), TOKENS)
def test_words_of_a_heading(heading: str, words: list[str]) -> None:
    assert tokens(heading) == words


def test_umlauts_are_found_written_out() -> None:
    assert spellings("Größe") == {"grosse", "groesse"}


def drafted(headings: list[str]) -> Draft:
    return draft_layout(headings, profile_rows(headings, []).columns, Dialect(), "t")


def meanings(headings: list[str]) -> list[str]:
    """What each column holds; custom columns as that one word."""
    return [
        "custom" if each.is_custom else "+".join(map(str, each.column.holds))
        for each in drafted(headings).columns
    ]


TABLES = {
    "en abbreviated": """
        Fname | name/given
        Lname | name/family
        Addr1 | address/line1
        Addr2 | address/line2
        PCode | address/postcode
        Ph | phone
        Mob | phone/cell
        DOB | birthday
        Yr joined | custom
        Rmks | note
        """,
    "en upper snake": """
        LAST_NM | name/family
        FIRST_NM | name/given
        ADDR_LN_1 | address/line1
        ADDR_LN_2 | address/line2
        ZIP_CD | address/postcode
        ST_CD | address/region
        HM_PH_NBR | phone/home
        WK_PH_NBR | phone/work
        EMAIL_ADR_TXT | email
        BRTH_DT | birthday
        CRT_TS | custom
        """,
    "en shared beginning": """
        person_name | name/full
        person_phone_home | phone/home
        person_phone_mobile | phone/cell
        person_mail_private | email/home
        person_mail_work | email/work
        person_addr_street | address/street
        person_addr_zip | address/postcode
        person_bday | birthday
        """,
    "en uses and positions": """
        Primary email | email/1
        Secondary email | email/2
        Work email | email/work
        Home Phone | phone/home
        Home Phone 2 | phone/home/2
        Business Fax | phone/work+fax
        Other Phone | phone/other
        Tel. (mobile) | phone/cell
        Phone (day) | phone/work
        Phone (evening) | phone/home
        """,
    "en with dots": """
        name.first | name/given
        name.last | name/family
        contact.phone.mobile | phone/cell
        address.city | address/locality
        """,
    "en other people": """
        Emergency contact | custom
        Emergency phone | custom
        Mother's name | custom
        Dad's mobile | custom
        Doctor | custom
        Assistant's Name | custom
        Spouse | related/spouse
        Children | related/child
        Instructor email | custom
        Dietary requirements | custom
        Addressee line | custom
        Email | email
        Do not contact | custom
        Birth country | custom
        Company phone | phone/work
        Company website | url/work
        Company address | address/work/full
        Company | org
        """,
    "en asides": """
        E-mail (required) | email
        Phone number (optional) | phone
        Date of birth (dd/mm/yyyy) | birthday
        Name (last, first) | name/full
        Web page: | url
        """,
    "en parts": """
        Phone 1 | phone/1
        Phone 1 Type | phone/1/use
        Phone 2 | phone/2
        Phone 2 Type | phone/2/use
        Preferred language | language
        Birth year | birthday/year
        Department | org/unit
        Company | org
        """,
    "de Verein": """
        Anrede | name/prefix
        Vor- u. Nachname | name/full
        Straße + Nr. | address/street
        PLZ/Ort | address/postcode+address/locality
        Tel. p. | phone/home
        Tel. dienstl. | phone/work
        Mobilfunknummer | phone/cell
        eMail | email
        geb. am | birthday
        Eintrittsdatum | custom
        Kto-Nr. | custom
        Bemerkungen | note
        """,
    "de contact person": """
        Institution | org
        Kontaktperson Vorname | name/given
        Kontaktperson Nachname | name/family
        Dienstadresse | address/street
        PLZ/Ort | address/postcode+address/locality
        Tel. (Zentrale) | phone
        """,
    "de in brackets": """
        Telefon (dienstlich) | phone/work
        Telefon (privat) | phone/home
        E-Mail (geschäftlich) | email/work
        Adresse (Straße, Nr.) | address/street
        Adresse (PLZ, Ort) | address/postcode+address/locality
        """,
    "de compounds": """
        Firmenname | org
        Geschäftstelefon | phone/work
        Privatadresse | address/home/full
        Notfalltelefon | custom
        Hausnummer | custom
        KundenNr | custom
        Geburtsort | custom
        """,
    "fr": """
        Nom | name/family
        Prénom | name/given
        Nom de naissance | custom
        Date naiss. | birthday
        Adr. 1 | address/line1
        Adr. 2 | address/line2
        Cod. post. | address/postcode
        Ville | address/locality
        Tél. dom. | phone/home
        Tél. trav. | phone/work
        Tél. port. | phone/cell
        Mél | email
        """,
    "es": """
        Apellido 1 | name/family
        Apellido 2 | name/family2
        Nombre | name/given
        Tel. móvil | phone/cell
        Calle y número | address/street
        Localidad | address/locality
        Nacionalidad | custom
        F. nacimiento | birthday
        """,
    "it": """
        Cognome e nome | name/full
        Nato il | birthday
        Nato a | custom
        Via e n. civico | address/street
        Località | address/locality
        Cell. | phone/cell
        C.F. | custom
        """,
    "nl": """
        Voornaam | name/given
        Achternaam | name/family
        Straatnaam | address/street
        Huisnr. | address/street
        Pc | address/postcode
        Woonpl. | address/locality
        Tel. privé | phone/home
        Geb.dat. | birthday
        Contributie | custom
        """,
    "pt": """
        Nome completo | name/full
        Morada | address/street
        Código postal | address/postcode
        Localidade | address/locality
        Telemóvel | phone/cell
        Data de nascimento | birthday
        """,
    "sv": """
        Namn | name/full
        Gata | address/street
        Postnr och ort | address/postcode+address/locality
        Tel hem | phone/home
        Tel arb | phone/work
        Personnummer | custom
        Yrke | title
        """,
    "nb": """
        Etternavn | name/family
        Fornavn | name/given
        Adresse 1 | address/line1
        Adresse 2 | address/line2
        Postnr | address/postcode
        Poststed | address/locality
        Tlf. | phone
        Født | birthday
        """,
    "da": """
        Fornavn | name/given
        Efternavn | name/family
        Vej og nr. | address/street
        Postnummer | address/postcode
        By | address/locality
        Fødselsdag | birthday
        """,
    "fi": """
        Sukunimi | name/family
        Etunimet | name/given
        Puh. koti | phone/home
        Puh. työ | phone/work
        Matkapuh. | phone/cell
        S-posti | email
        Synt.aika | birthday
        """,
    "pl": """
        Imię i nazwisko | name/full
        Ul. | address/street
        Miasto | address/locality
        Telefon domowy | phone/home
        PESEL | custom
        Zawód | title
        """,
    "cs": """
        Příjmení | name/family
        Jméno | name/given
        Titul před | name/prefix
        Titul za | name/suffix
        Tel. domů | phone/home
        Ulice | address/street
        Č.p. | address/street
        PSČ | address/postcode
        """,
    "sk": """
        Priezvisko | name/family
        Meno | name/given
        Mobilný telefón | phone/cell
        Dátum narodenia | birthday
        """,
    "hu": """
        Vezetéknév | name/family
        Keresztnév | name/given
        Irsz. | address/postcode
        Település | address/locality
        Munkahely | org
        Beosztás | title
        """,
    "ro": """
        Nume | name/family
        Prenume | name/given
        Localitate | address/locality
        Județ | address/region
        Data nașterii | birthday
        """,
    "hr": """
        Prezime | name/family
        Ime | name/given
        Poštanski broj | address/postcode
        Mobitel | phone/cell
        Datum rođenja | birthday
        """,
    "sr in Cyrillic": """
        Презиме | name/family
        Име | name/given
        Адреса | address/street
        Место | address/locality
        Мобилни телефон | phone/cell
        """,
    "sl": """
        Priimek | name/family
        Ime | name/given
        Poštna številka | address/postcode
        Kraj | address/locality
        """,
    "bg": """
        Фамилия | name/family
        Име | name/given
        Пощенски код | address/postcode
        Град | address/locality
        Мобилен телефон | phone/cell
        """,
    "ru": """
        Фамилия, имя, отчество | name/full
        Телефон мобильный | phone/cell
        Телефон рабочий | phone/work
        Почтовый индекс | address/postcode
        Дата рожд. | birthday
        Группа | category
        """,
    "uk": """
        Прізвище | name/family
        Ім'я | name/given
        По батькові | name/additional
        Дата народження | birthday
        Електронна пошта | email
        """,
    "el": """
        Επώνυμο | name/family
        Όνομα | name/given
        Κινητό τηλ. | phone/cell
        Οδός & αριθμός | address/street
        ΤΚ | address/postcode
        ΑΦΜ | custom
        """,
    "tr": """
        Ad Soyad | name/full
        Cep | phone/cell
        Ev Telefonu | phone/home
        Doğum Yeri | custom
        Meslek | title
        """,
    "lt": """
        Vardas | name/given
        Pavardė | name/family
        El. paštas | email
        Gimimo data | birthday
        """,
    "lv": """
        Vārds | name/given
        Uzvārds | name/family
        Tālrunis | phone
        Pasta indekss | address/postcode
        """,
    "et": """
        Eesnimi | name/given
        Perekonnanimi | name/family
        Postiindeks | address/postcode
        Sünniaeg | birthday
        """,
    "is": """
        Eiginnafn | name/given
        Föðurnafn | name/family
        Póstnúmer | address/postcode
        Farsími | phone/cell
        """,
    "ca": """
        Cognoms | name/family
        Nom | name/given
        Adreça | address/street
        Població | address/locality
        """,
    "ja": """
        姓 | name/family
        名 | name/given
        郵便番号 | address/postcode
        都道府県 | address/region
        市区町村 | address/locality
        自宅電話番号 | phone/home
        お電話番号 | phone
        緊急連絡先 | custom
        """,
    "zh": """
        姓名 | name/full
        手机号码 | phone/cell
        公司 | org
        详细地址 | address/full
        邮政编码 | address/postcode
        紧急联系人 | custom
        """,
    "ko": """
        성명 | name/full
        휴대폰번호 | phone/cell
        생년월일 | birthday
        자택전화 | phone/home
        우편번호 | address/postcode
        """,
    "ar": """
        الاسم الأول | name/given
        اسم العائلة | name/family
        رقم الجوال | phone/cell
        المدينة | address/locality
        """,
    "fa": """
        نام خانوادگی | name/family
        نام | name/given
        تلفن همراه | phone/cell
        کد پستی | address/postcode
        """,
    "he": """
        שם פרטי | name/given
        שם משפחה | name/family
        טלפון נייד | phone/cell
        מיקוד | address/postcode
        """,
    "hi": """
        पूरा नाम | name/full
        मोबाइल नंबर | phone/cell
        जन्म तिथि | birthday
        पिन कोड | address/postcode
        """,
    "id": """
        Nama Depan | name/given
        Nama Belakang | name/family
        Nomor HP | phone/cell
        Kode Pos | address/postcode
        """,
    "vi": """
        Họ | name/family
        Tên | name/given
        Điện thoại di động | phone/cell
        Ngày sinh | birthday
        """,
    "th": """
        ชื่อ | name/given
        นามสกุล | name/family
        เบอร์โทรศัพท์มือถือ | phone/cell
        รหัสไปรษณีย์ | address/postcode
        """,
    "numbers that count": """
        1er apellido | name/family
        Tel M | phone/cell
        House name or number & street | address/street
        Supplier name | org
        """,
    "two languages in a heading": """
        Nom / Name | name/family
        Prénom / Vorname | name/given
        NPA / PLZ | address/postcode
        Localité / Ort | address/locality
        Tél. / Tel. | phone
        """,
}


@pytest.mark.parametrize("table", TABLES.values(), ids=TABLES.keys())
def test_headings_say_what_columns_hold(table: str) -> None:
    rows = [line.strip().split(" | ") for line in table.strip().splitlines()]
    headings = [heading for heading, _ in rows]
    assert dict(zip(headings, meanings(headings), strict=True)) == dict(rows)


def test_a_name_is_what_its_neighbours_leave() -> None:
    assert meanings(["Name", "E-mail"]) == ["name/full", "email"]
    assert meanings(["Name", "Vorname"]) == ["name/family", "name/given"]
    assert meanings(["Name", "Surname"]) == ["name/given", "name/family"]
    assert meanings(["Nombre", "Correo"]) == ["name/full", "email"]
    assert meanings(["Nombre", "Apellidos"]) == ["name/given", "name/family"]


def test_columns_of_an_address_that_come_again_are_another_address() -> None:
    twice = ["Name", "Street", "Town", "Post code", "Street", "Town", "Post code"]
    assert meanings(twice)[4:] == ["address/2/street", "address/2/locality", "address/2/postcode"]
    assert meanings(["Surname", "Surname"]) == ["name/family", "custom"]


def test_the_only_number_needs_no_number() -> None:
    assert meanings(["Name", "Phone 1"]) == ["name/full", "phone"]
    assert meanings(["Phone 1", "Phone 2"]) == ["phone/1", "phone/2"]
    assert meanings(["Phone", "Phone type"]) == ["phone/1", "phone/1/use"]


def test_a_street_and_its_number_are_joined() -> None:
    columns = drafted(["Straße", "Hausnummer", "Ort"]).layout.columns
    assert [column.join for column in columns] == [" ", " ", None]


def test_the_language_is_told_from_all_headings() -> None:
    told = languages_of(["Vorname", "Nachname", "Ort", "Telefon"])
    assert max(told, key=lambda language: told[language]) == "de"
    assert languages_of(["Zibble"]) == {}


def test_field_paths_are_headings() -> None:
    read = read_headings(["name/given", "phone/work+fax", "custom/Boat", "note", "uid"])
    assert all(each.is_path for each in read)
    assert not any(each.is_path for each in read_headings(["note", "key", "Sound"]))


@pytest.mark.parametrize(
    ("cells", "known"),
    [
        (["Name", "E-mail", "Zibble"], 2),
        (["Anna Weber", "a@x.test", "Withy"], 0),
        (["Members, as of May", "", ""], 0),
        (["Vorname", "Fleem"], 1),
    ],
)
def test_rows_of_headings_are_told(cells: list[str], known: int) -> None:
    assert known_headings(cells) == known


@given(st.lists(st.text(max_size=30), min_size=1, max_size=8))
def test_any_headings_give_a_layout_without_a_clash(headings: list[str]) -> None:
    columns = drafted(headings).layout.columns
    assert len(columns) == len(headings)
    single = [
        path
        for column in columns
        for path in column.holds
        if path.field != "custom" and (path.part or path.position) and column.join is None
    ]
    assert len(single) == len(set(single))
