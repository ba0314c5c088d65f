"""Character sets are told from a few names, with a sureness that means something."""

from __future__ import annotations

import pytest

from roundcard.formats import charset

WEST = "Name;Ort\nJürgen Müller;Köln\nRenée Lefèvre;Orléans\nJosé Núñez;Málaga\nSmith;Leeds\n"
TEXTS = {
    "west": WEST,
    "euro": WEST + "João;10 €\n",
    "French": "Nom;Ville\nLefèvre;Besançon\nHélène;Évry\nÉmile;Orléans\nFrançois;L'Haÿ\n",
    "Danish": "Navn;By\nSøren Kjær;Århus\nBjørn Østergård;Ærø\n",
    "Icelandic": "Nafn;Staður\nJón Sigurðsson;Ísafjörður\nÞórunn Guðmundsdóttir;Höfn\n",
    "Portuguese": "Nome;Cidade\nJoão Gonçalves;São Paulo\nInês Conceição;Évora\n",
    "Polish": "Imię;Miasto\nŁukasz Wójcik;Łódź\nMałgorzata Dąbrowska;Kraków\nŻuraw;Gdańsk\n",
    "Czech": "Jméno;Město\nJiří Dvořák;Plzeň\nŠárka Němcová;Ústí\nTomáš Žižka;Brno\n",
    "Hungarian": "Név;Város\nNagy Őrs;Győr\nTóth Ágnes;Szűcs\nKovács Éva;Pécs\n",
    "Croatian": "Ime;Grad\nIvan Kovačić;Poreč\nĐuro Šimić;Čakovec\nŽeljko;Osijek\n",
    "Russian": "Имя;Город\nИван Петров;Москва\nОльга Смирнова;Казань\n",
    "Greek": "Όνομα;Πόλη\nΓιώργος Παπαδόπουλος;Αθήνα\nΕλένη Νικολάου;Πάτρα\n",
    "Turkish": "Ad;Şehir\nAyşe Yılmaz;İstanbul\nOğuz Çelik;İzmir\nGülşen Doğan;Ağrı\n",
    "Hebrew": "שם;עיר\nדוד כהן;תל אביב\nשרה לוי;ירושלים\n",
    "Arabic": "اسم;مدينة\nأحمد علي;القاهرة\nفاطمة حسن;بغداد\n",
    "Baltic": "Vārds;Pilsēta\nJānis Bērziņš;Rīga\nKęstutis Žukauskas;Šiauliai\nČepaitė;Vilnius\n",
    "Japanese": "氏名;住所\n山田太郎;東京都\n佐藤花子;大阪市\nスズキ;名古屋\n",
    "Chinese": "姓名;城市\n王伟;北京\n李娜;上海\n张敏;广州\n",
    "Taiwanese": "姓名;城市\n陳怡君;臺北\n林志明;高雄\n張雅婷;臺中\n",
    "Korean": "이름;도시\n김민수;서울\n이영희;부산\n박지훈;대구\n",
}
CASES = [
    ("west", "cp1252 latin-1 cp437 cp850 mac-roman utf-8 utf-8-sig utf-16"),
    ("euro", "cp1252 iso8859-15 mac-roman"),
    ("French", "cp1252 cp850 mac-roman"),
    ("Danish", "cp1252 cp850 mac-roman"),
    ("Icelandic", "cp1252 latin-1"),
    ("Portuguese", "cp1252 cp850 mac-roman"),
    ("Polish", "cp1250 iso8859-2"),
    ("Czech", "cp1250 iso8859-2"),
    ("Hungarian", "cp1250 iso8859-2"),
    ("Croatian", "cp1250 iso8859-2"),
    ("Russian", "cp1251 iso8859-5 koi8-r cp866"),
    ("Greek", "cp1253 iso8859-7"),
    ("Turkish", "cp1254 iso8859-9"),
    ("Hebrew", "cp1255 iso8859-8"),
    ("Arabic", "cp1256 iso8859-6"),
    ("Baltic", "cp1257 iso8859-13"),
    ("Japanese", "shift_jis cp932 euc_jp"),
    ("Chinese", "gb18030 utf-16-le utf-16-be"),
    ("Taiwanese", "big5"),
    ("Korean", "euc_kr"),
]


@pytest.mark.parametrize(
    ("language", "encoding"), [(name, each) for name, sets in CASES for each in sets.split()]
)
def test_a_few_names_tell_the_character_set(language: str, encoding: str) -> None:
    octets = TEXTS[language].encode(encoding)
    found = charset.mark_of(octets) or charset.wide_of(octets)
    found = found or charset.guess(charset.telling([octets])).encoding
    assert octets.decode(found).removeprefix("\ufeff") == TEXTS[language]


def test_ascii_is_sure_and_one_letter_is_not() -> None:
    assert charset.guess(b"") == ("utf-8", 1.0)
    assert charset.guess("Zoë\n".encode()).sureness > 0.9
    assert charset.guess("Renée\n".encode("cp1252")).sureness < 0.9
    assert charset.guess(WEST.encode("cp1252")).sureness > 0.9


def test_a_damaged_line_does_not_change_the_set_of_a_file() -> None:
    good = "Zoë\n".encode() * 9
    assert charset.guess(good + b"Zo\xeb\n").encoding == "utf-8"
    assert charset.guess(good[:4] + b"Zo\xeb\n" * 9).encoding == "windows-1252"


@pytest.mark.parametrize("size", [1, 3, 7, 1000])
def test_telling_lines_are_found_wherever_chunks_are_cut(size: int) -> None:
    octets = b"plain\n" * 50 + "Zoë;x\n".encode() + b"plain\n" * 50 + "Ünal".encode()
    chunks = [octets[at : at + size] for at in range(0, len(octets), size)]
    assert charset.telling(chunks) == "Zoë;x\nÜnal".encode()


@pytest.mark.parametrize(
    ("encoding", "octets", "plainly"),
    [
        ("windows-1252", "Zoë".encode(), True),
        ("windows-1252", "Zoë".encode("cp1252"), False),
        ("utf-8", "Renée".encode("cp1252"), True),
        ("utf-8", "Renée".encode(), False),
        ("utf-16", "Renée".encode(), False),
        ("ascii", b"Renee", False),
    ],
)
def test_what_is_plainly_not_in_a_set(encoding: str, octets: bytes, plainly: bool) -> None:
    assert charset.plainly_not(encoding, octets) is plainly
