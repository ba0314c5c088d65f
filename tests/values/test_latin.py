"""Names of other scripts in Latin letters."""

from __future__ import annotations

import pytest

from roundcard.clean.unspaced_names import split_unspaced, unspaced_parts
from roundcard.values.latin import korean, latin, spelling

SAID = """
ольга olga
щербаков shcherbakov
юлия yuliya
гнатенко gnatenko
γιωργος giorgos
μπουρας bouras
ευαγγελια evangelia
გიორგი giorgi
김 gim
민지 minji
さくら sakura
タロウ tarou
王 wang
佐藤 sato
大輔 daisuke
渡邊 watanabe
weir weir
"""


@pytest.mark.parametrize("row", SAID.strip().splitlines())
def test_what_letters_say(row: str) -> None:
    text, said = row.split()
    assert latin(text) == said


def test_what_cannot_be_read_stays() -> None:
    assert not latin("陈巍").isascii()
    assert latin("محمد") == "محمد"


ALIKE = """
tschaikowsky:tchaikovsky schmidt:shmidt meier:meyer tchaikovsky:chaikovsky
alexander:aleksander philipp:filip
"""


@pytest.mark.parametrize("pair", ALIKE.split())
def test_spellings_of_one_name(pair: str) -> None:
    one, _, other = pair.partition(":")
    assert spelling(one) == spelling(other)


def test_usual_spellings_of_korean_names() -> None:
    assert [korean(each) for each in ("park", "lee", "choi", "weir")] == [
        "bak",
        "i",
        "choe",
        "weir",
    ]


PARTS = """
山田太郎 | family 山田 given 太郎 | family 山田 given 太郎
王伟 | family 王 given 伟 | family 王 given 伟
马桂芳 |  | family 马 given 桂芳
桂芳马 |  | family 马 given 桂芳
김민지 | family 김 given 민지 |
株式会社石川 |  |
"""


@pytest.mark.parametrize("row", PARTS.strip().splitlines())
def test_names_without_a_space(row: str) -> None:
    text, sure, likely = (part.strip() for part in row.split("|"))
    found = split_unspaced(text)
    assert found is not None
    assert " ".join(f"{part} {said}" for part, said in found[0] if said) == sure
    assert " ".join(f"{part} {said}" for part, said in unspaced_parts(text)) == likely
