"""Names in scripts that put no spaces between words: the family name stands first.

The lists hold the commonest family names only; what they do not tell stays whole.
"""

from __future__ import annotations

import re

_UNSPACED = re.compile(r"[\u3040-\u30ff\u3400-\u9fff\uf900-\ufaff\uac00-\ud7af々ー・＝=\s\u3000]+")
_KATAKANA = re.compile(r"[\u30a0-\u30ff・＝=\s]+")
_HAN = re.compile(r"[\u3400-\u9fff\u3041-\u30fa々]+")
_LONGEST = 5
_HANGUL = re.compile(r"[\uac00-\ud7af]+")
_POLITE = re.compile(r"\s?(様|さま|さん|氏|殿|先生|博士|教授|女士|小姐|씨|님|선생님)$")
_ORGANISATION = re.compile(
    r"(?:株式会社|有限会社|合同会社|財団|協会|学校|大学|高校|病院|市役所|役場|公司|集团|学院|医院|会社|組合|"
    r"商店|銀行|教会|주식회사|학교|대학교|병원|은행|협회|회사)"
)
KOREAN = frozenset(
    "김이박최정강조윤장임한오서신권황안송류전홍고문양손배백허유남심노하곽성차주우구민진엄채원천방공현함변염여추도소석"
    "선설마길연위표명기반왕금옥육인맹제모"
)
_KOREAN_LONG = ("남궁", "황보", "제갈", "선우", "독고", "사공", "서문")
CHINESE = frozenset(
    "王李张張刘劉陈陳杨楊赵趙黄周吴吳徐孙孫胡朱郭何罗羅梁宋郑鄭谢謝韩韓唐冯馮董程曹袁邓鄧许許傅沈曾彭吕呂"
    "苏蘇卢盧蒋蔣蔡贾賈丁魏薛叶閻余潘杜戴钟鍾汪"
)
_CHINESE_TOO = frozenset(
    "马馬高林宋于萧姜范方石姚谭譚廖邹鄒熊金陆陸郝孔白崔康毛邱秦江史顾顧侯邵孟龙龍万段雷钱錢汤尹黎易常武乔贺赖叶葉田任夏"
)
"""Family names that are words of Japanese names, too: good enough for a comparison."""
_CHINESE_LONG = ("欧阳", "歐陽", "司马", "司馬", "诸葛", "諸葛", "上官", "司徒", "夏侯")
_COMMONEST = (
    "佐藤 鈴木 高橋 田中 伊藤 渡辺 渡邊 山本 中村 小林 加藤 吉田 山田 佐々木 "
    "山口 松本 井上 木村 斎藤 清水 山崎 阿部 池田 橋本 山下 石川 中島 前田 "
    "藤田 小川 後藤 岡田 長谷川 村上 近藤 石井 坂本 遠藤 青木 藤井 西村 福田 "
    "太田 三浦 藤原 岡本 松田 中川 中野 原田 小野 田村 竹内 金子 和田 中山 "
    "石田 上田 森田 柴田 酒井 工藤 横山 宮崎 宮本 内田 高木 安藤 谷口 大野 "
    "丸山 今井 高田 藤本 武田 村田 上野 杉山 増田 平野 大塚 千葉 久保 松井 "
    "小島 岩崎 桜井 野口 松尾 野村 木下 菊地 菊池 佐野 大西 杉本 新井 浜田 "
    "市川 水野 小松 島田 古川 小山 柳田 川口 船木 水上 "
)
JAPANESE = frozenset(_COMMONEST.split())

Found = tuple[tuple[tuple[str, str], ...], str]


def split_unspaced(text: str) -> Found | None:
    """The parts of a name in Han, kana or Hangul, and the doubt of it; None for other scripts."""
    if not _UNSPACED.fullmatch(text):
        return None
    if _ORGANISATION.search(text):
        return (), ""
    polite = ""
    if (found := _POLITE.search(text)) and found.start():
        text, polite = text[: found.start()], found[1]
    if _KATAKANA.fullmatch(text) and re.search(r"[・＝=]", text):
        foreign = [word for word in re.split(r"[・＝=\s]+", text) if word]
        if len(foreign) == 2:  # in its own order
            return _made(foreign[1], foreign[0], polite), ""
        return (), "which words are the family name is not sure"
    words = text.split()
    if len(words) == 2:
        return _made(words[0], words[1], polite), ""
    if len(words) > 2:
        return (), "which words are the family name is not sure"
    if polite and (text in JAPANESE or text in KOREAN or text in CHINESE):
        return _made(text, "", polite), ""
    family = _family(text)
    if family:
        return _made(family, text[len(family) :], polite), ""
    return (), "family and given name stand without a space" if len(text) > 1 else ""


def unspaced_parts(text: str) -> tuple[tuple[str, str], ...]:
    """The likely parts of a short name in Han, for comparison: the family name stands first, or
    last where only the last character is one."""
    if not 2 <= len(text) <= _LONGEST or not _HAN.fullmatch(text) or _ORGANISATION.search(text):
        return ()
    for name in (text[:2], text[:1], text[-2:], text[-1:]):
        if any(name in names for names in (JAPANESE, CHINESE, _CHINESE_LONG, _CHINESE_TOO)):
            given = text.removeprefix(name) if text.startswith(name) else text.removesuffix(name)
            return (("family", name), ("given", given)) if given else ()
    return ()


def _family(text: str) -> str:
    """The family name with which a name begins; empty where that is not sure."""
    if _HANGUL.fullmatch(text):
        for name in _KOREAN_LONG:
            if text.startswith(name):
                return name if len(text) in (3, 4) else ""
        return text[0] if len(text) == 3 and text[0] in KOREAN else ""
    for name in sorted(JAPANESE, key=len, reverse=True):
        if text.startswith(name) and 1 <= len(text) - len(name) <= 3:
            return name
    for name in _CHINESE_LONG:
        if text.startswith(name) and len(text) in (3, 4):
            return name
    kana = any("\u3040" <= char <= "\u30ff" for char in text)
    return text[0] if not kana and text[0] in CHINESE and len(text) in (2, 3) else ""


def _made(family: str, given: str, polite: str) -> tuple[tuple[str, str], ...]:
    parts = (("family", family), ("given", given), ("suffix", polite))
    return tuple((part, text) for part, text in parts if text)
