"""Words by which it is told where a line may end: those that belong to what follows, and those that begin a phrase.

Small words of each language: articles, possessives and prepositions, after
which no line should end, and conjunctions, before which one does well.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable

_HOLD = {
    "en": "a an the my your his her its our their this that these those no every each some any of to in on at by for "
    "with from into onto upon over under between through about against among around behind beside beyond without "
    "within across along near past unto thy thine mr mrs ms dr st",
    "de": "der die das dem den des ein eine einem einen einer eines kein keine keinen mein meine dein seine sein ihr "
    "ihre unser von vom zu zum zur in im an am auf aus bei beim mit nach vor über unter zwischen durch für gegen ohne "
    "um hinter neben seit",
    "fr": "le la les l un une des du de d au aux mon ma mes ton ta tes son sa ses notre nos votre vos leur leurs ce "
    "cet cette ces à en dans par pour sur sous avec sans chez vers entre contre depuis",
    "es": "el la los las un una unos unas mi mis tu tus su sus nuestro nuestra este esta estos estas de del a al en "
    "con por para sin sobre entre desde hasta hacia contra tras",
    "it": "il lo la i gli le l un uno una mio mia tuo tua suo sua di del dello della dei degli delle a al allo alla "
    "da dal dalla in nel nella con su sul sulla per tra fra",
    "pt": "o a os as um uma uns umas meu minha teu tua seu sua de do da dos das em no na nos nas a ao à por pelo pela "
    "para com sem sobre entre desde até",
    "nl": "de het een mijn jouw zijn haar ons onze hun van in op aan bij met naar voor over onder tussen door uit om "
    "zonder tegen",
    "sv": "en ett den det de min din sin vår er av i på till från med utan för om under över mellan vid efter mot hos",
    "pl": "w we z ze na do od dla po pod nad przed przez za o u ku bez przy między",
    "cs": "v ve z ze na do od pro po pod nad před přes za o u k ke bez při mezi s se",
    "ru": "в во на с со к ко у о об от до из за по под над при без для через между перед",
    "ar": "في من على إلى عن مع بين تحت فوق عند هذا هذه",
    "he": "של את על עם אל מן בין תחת",
}
_BEGIN = {
    "en": "and but or nor so because that which who whom whose when where while if until unless although though "
    "before after since",
    "de": "und aber oder denn weil dass ob wenn als während bevor nachdem obwohl der die das",
    "fr": "et mais ou donc car que qui quand où lorsque si parce puisque",
    "es": "y e pero o u porque que quien cuando donde si mientras aunque",
    "it": "e ed ma o perché che chi quando dove se mentre",
    "pt": "e mas ou porque que quem quando onde se enquanto embora",
    "nl": "en maar of want omdat dat die wanneer waar als terwijl",
    "sv": "och men eller för att som när där om medan",
    "pl": "i a ale lub bo że który kiedy gdzie jeśli",
    "cs": "a ale nebo protože že který když kde jestli",
    "ru": "и а но или потому что который когда где если",
    "ar": "و ثم لكن لأن حين عندما إذا",
    "he": "אבל או כי כאשר אם",
}
HOLD: dict[str, frozenset[str]] = {language: frozenset(words.split()) for language, words in _HOLD.items()}
BEGIN: dict[str, frozenset[str]] = {language: frozenset(words.split()) for language, words in _BEGIN.items()}
_SIGNS = ((0x3040, 0x30FF, "ja"), (0xAC00, 0xD7AF, "ko"), (0x4E00, 0x9FFF, "zh"), (0x0E00, 0x0E7F, "th"),
          (0x0590, 0x05FF, "he"), (0x0600, 0x06FF, "ar"), (0x0900, 0x097F, "hi"))  # fmt: skip


def language_of(texts: Iterable[str]) -> str:
    """The likeliest language of texts, as a two-letter code: by their script, then by how many small words they have.

    >>> language_of(["The lanterns go down the river at nine."])
    'en'
    """
    scripts: Counter[str] = Counter()
    words: Counter[str] = Counter()
    for text in texts:
        for low, high, language in _SIGNS:
            if any(low <= ord(sign) <= high for sign in text):
                scripts[language] += 1
                break
        else:
            words.update(text.lower().replace("’", " ").replace("'", " ").split())
    if scripts and max(scripts.values()) > sum(words.values()) / 20:
        return scripts.most_common(1)[0][0]
    known = {
        language: sum(count for word, count in words.items() if word in HOLD[language] | BEGIN[language])
        for language in HOLD
    }
    best = max(known, key=lambda language: (known[language], language == "en"))
    return best if known[best] else "en"
