"""Names of other scripts in Latin letters: for comparison, never for display.

Cyrillic and Greek letter by letter, as most passports do; Hangul by its parts (Unicode 15, section
3.12) in the revised romanisation of Korean; kana by their syllables. Han characters have no letters
of their own: only the commonest family names are known.
"""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache

_LETTERS = str.maketrans(
    {"а": "a", "б": "b", "в": "v", "г": "g", "д": "d", "е": "e", "ж": "zh", "з": "z", "и": "i",
     "й": "i", "к": "k", "л": "l", "м": "m", "н": "n", "о": "o", "п": "p", "р": "r", "с": "s",
     "т": "t", "у": "u", "ф": "f", "х": "kh", "ц": "ts", "ч": "ch", "ш": "sh", "щ": "shch",
     "ъ": "", "ы": "y", "ь": "", "э": "e", "ю": "yu", "я": "ya", "і": "i", "ї": "i", "є": "ye",
     "ў": "u", "ђ": "dj", "ј": "j", "љ": "lj", "њ": "nj", "ћ": "c", "џ": "dz", "ѓ": "g", "ќ": "k",
     "ѕ": "dz",
     "α": "a", "β": "v", "γ": "g", "δ": "d", "ε": "e", "ζ": "z", "η": "i", "θ": "th", "ι": "i",
     "κ": "k", "λ": "l", "μ": "m", "ν": "n", "ξ": "x", "ο": "o", "π": "p", "ρ": "r", "σ": "s",
     "ς": "s", "τ": "t", "υ": "y", "φ": "f", "χ": "ch", "ψ": "ps", "ω": "o",
     "ა": "a", "ბ": "b", "გ": "g", "დ": "d", "ე": "e", "ვ": "v", "ზ": "z", "თ": "t", "ი": "i",
     "კ": "k", "ლ": "l", "მ": "m", "ნ": "n", "ო": "o", "პ": "p", "ჟ": "zh", "რ": "r", "ს": "s",
     "ტ": "t", "უ": "u", "ფ": "p", "ქ": "k", "ღ": "gh", "ყ": "q", "შ": "sh", "ჩ": "ch",
     "ც": "ts", "ძ": "dz", "წ": "ts", "ჭ": "ch", "ხ": "kh", "ჯ": "j", "ჰ": "h"}
)  # fmt: skip
_GREEK = (("ου", "ou"), ("αυ", "av"), ("ευ", "ev"), ("γγ", "ng"), ("γκ", "gk"), ("μπ", "b"),
          ("ντ", "nt"))  # fmt: skip
_LEADS = "g kk n d tt r m b pp s ss  j jj ch k t p h".split(" ")
_VOWELS = "a ae ya yae eo e yeo ye o wa wae oe yo u wo we wi yu eu ui i".split(" ")
_TAILS = (" k k k n n n t l k m l l l p l m p p t t ng t t k t p t").split(" ")
_HANGUL, _SYLLABLES = 0xAC00, 11_172
_KANA = re.compile(r"[\u3041-\u3096\u30a1-\u30fa]")
_HAN = dict(
    each.split(":")
    for each in (
        "王:wang 李:li 张:zhang 張:zhang 刘:liu 劉:liu 陈:chen 陳:chen 杨:yang 楊:yang 赵:zhao 趙:zhao "
        "黄:huang 黃:huang 周:zhou 吴:wu 吳:wu 徐:xu 孙:sun 孫:sun 胡:hu 朱:zhu 高:gao 林:lin 何:he "
        "郭:guo 马:ma 馬:ma 罗:luo 羅:luo 梁:liang 宋:song 郑:zheng 鄭:zheng 谢:xie 謝:xie 韩:han "
        "韓:han 唐:tang 冯:feng 馮:feng 于:yu 董:dong 萧:xiao 程:cheng 曹:cao 袁:yuan 邓:deng 鄧:deng "
        "许:xu 許:xu 傅:fu 沈:shen 曾:zeng 彭:peng 吕:lu 呂:lu 苏:su 蘇:su 卢:lu 盧:lu 蒋:jiang 蔣:jiang "
        "蔡:cai 贾:jia 賈:jia 丁:ding 魏:wei 薛:xue 叶:ye 葉:ye 阎:yan 余:yu 潘:pan 杜:du 戴:dai 夏:xia "
        "钟:zhong 鍾:zhong 汪:wang 田:tian 任:ren 姜:jiang 范:fan 方:fang 石:shi 姚:yao 谭:tan 譚:tan "
        "廖:liao 邹:zou 鄒:zou 熊:xiong 金:jin 陆:lu 陸:lu 郝:hao 孔:kong 白:bai 崔:cui 康:kang 毛:mao "
        "邱:qiu 秦:qin 江:jiang 史:shi 顾:gu 顧:gu 侯:hou 邵:shao 孟:meng 龙:long 龍:long 万:wan "
        "段:duan 雷:lei 钱:qian 錢:qian 汤:tang 尹:yin 黎:li 易:yi 常:chang 武:wu 乔:qiao 贺:he 赖:lai "
        "伟:wei 偉:wei 芳:fang 娜:na 敏:min 静:jing 靜:jing 丽:li 麗:li 强:qiang 磊:lei 军:jun 軍:jun "
        "洋:yang 勇:yong 艳:yan 艷:yan 杰:jie 涛:tao 濤:tao 明:ming 超:chao 秀:xiu 霞:xia 平:ping "
        "刚:gang 剛:gang 桂:gui 英:ying 华:hua 華:hua 玉:yu 兰:lan 蘭:lan 红:hong 紅:hong 梅:mei "
        "鹏:peng 鵬:peng 宇:yu 浩:hao 欣:xin 怡:yi 雪:xue 琳:lin 晨:chen 佳:jia 俊:jun 文:wen 建:jian "
        "国:guo 國:guo 志:zhi 海:hai 春:chun 晓:xiao 曉:xiao 小:xiao 婷:ting 玲:ling 慧:hui 莉:li 燕:yan "
        "云:yun 雲:yun 飞:fei 飛:fei 波:bo 斌:bin 辉:hui 輝:hui 健:jian 亮:liang 峰:feng 娟:juan 萍:ping "
        "美:mei 淑:shu 珍:zhen 月:yue 子:zi 轩:xuan 涵:han 思:si 雨:yu 梓:zi 天:tian 一:yi 博:bo 瑞:rui"
    ).split()
)  # fmt: skip
_ANY = re.compile(r"[\u0370-\u052f\u10d0-\u10ff\u3041-\u30fa\u3400-\u9fff\uac00-\ud7a3]")


@lru_cache(maxsize=65_536)
def latin(text: str) -> str:
    """A folded text with what can be said in Latin letters said so; the rest as it is."""
    if text.isascii() or not _ANY.search(text):
        return text
    for two, said in _GREEK:
        text = text.replace(two, said)
    text = text.translate(_LETTERS)
    return "".join(map(_one, text)) if not text.isascii() else text


def _one(char: str) -> str:
    syllable = ord(char) - _HANGUL
    if 0 <= syllable < _SYLLABLES:
        lead, rest = divmod(syllable, 588)
        return _LEADS[lead] + _VOWELS[rest // 28] + _TAILS[rest % 28]
    if char in _HAN:
        return _HAN[char]
    if _KANA.match(char):  # HIRAGANA LETTER KA
        said = unicodedata.name(char).rpartition(" ")[2].lower()
        return {"si": "shi", "ti": "chi", "tu": "tsu", "hu": "fu", "zi": "ji"}.get(said, said)
    return char


_SPELLINGS = (("shch", "s"), ("sch", "s"), ("sh", "s"), ("zh", "z"), ("tch", "c"), ("ch", "h"),
              ("kh", "h"), ("gh", "g"), ("ph", "f"), ("th", "t"), ("ck", "k"), ("cz", "c"),
              ("ts", "c"), ("tz", "c"), ("dj", "j"), ("eo", "o"), ("oo", "u"), ("ou", "u"),
              ("ee", "i"), ("w", "v"), ("q", "k"), ("x", "ks"), ("j", "i"), ("y", "i"), ("ie", "i"),
              ("io", "e"), ("ae", "a"), ("oe", "o"), ("ue", "u"))  # fmt: skip
_KOREAN = {
    "kim": "gim", "lee": "i", "yi": "i", "rhee": "i", "ri": "i", "park": "bak", "pak": "bak",
    "choi": "choe", "jung": "jeong", "chung": "jeong", "kang": "gang", "cho": "jo", "yoon": "yun",
    "chang": "jang", "lim": "im", "rim": "im", "oh": "o", "suh": "seo", "shin": "sin",
    "kwon": "gwon", "moon": "mun", "pae": "bae", "ahn": "an", "yoo": "yu", "ryu": "yu", "ko": "go",
    "paik": "baek", "hur": "heo", "shim": "sim", "noh": "no", "roh": "no", "joo": "ju",
    "koo": "gu", "woo": "u", "jeon": "jeon", "chun": "jeon", "son": "son", "sohn": "son",
}  # fmt: skip
"""Usual spellings of Korean family names, and what the revised romanisation makes of them."""


@lru_cache(maxsize=131_072)
def spelling(word: str) -> str:
    """What is common to the usual spellings of one name in Latin letters."""
    for long, short in _SPELLINGS:
        if long in word:
            word = word.replace(long, short)
    out = word[:1]
    for char in word[1:]:
        if char != out[-1] and char != "h":
            out += char
    return out


def korean(family: str) -> str:
    """A family name as the revised romanisation of Korean has it, where it is a usual spelling."""
    return _KOREAN.get(family, family)
