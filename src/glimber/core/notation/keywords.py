"""The names that the world gives keys and modifiers, beside those of our notation; looked up with blanks and dashes taken out."""

from __future__ import annotations

import re
from types import MappingProxyType
from typing import Final

from glimber.core.notation.keycodes import CODES, KEY_ALIASES, MODIFIER_ALIASES, NAMES_OF_CODES
from glimber.core.notation.translated_keys import TRANSLATED_KEYS, TRANSLATED_MODIFIERS

_SIGNS: Final = {
    "plus": "+", "minus": "-", "hyphen": "-", "dash": "-", "equal": "=", "equals": "=", "comma": ",", "period": ".", "dot": ".",
    "fullstop": ".", "slash": "/", "forwardslash": "/", "backslash": "\\", "semicolon": ";", "colon": ":", "apostrophe": "'",
    "quote": "'", "singlequote": "'", "quotedbl": '"', "doublequote": '"', "grave": "`", "backtick": "`", "backquote": "`",
    "quoteright": "'",
    "quoteleft": "`", "tilde": "~", "asciitilde": "~", "bracketleft": "[", "bracketright": "]", "leftbracket": "[", "lbrace": "{",
    "rbrace": "}", "lbracket": "[", "rbracket": "]",
    "rightbracket": "]", "braceleft": "{", "braceright": "}", "parenleft": "(", "parenright": ")", "less": "<", "greater": ">",
    "lt": "<", "gt": ">", "bar": "|", "pipe": "|", "at": "@", "numbersign": "#", "hash": "#", "asterisk": "*", "star": "*",
    "question": "?", "questionmark": "?", "exclam": "!", "exclamation": "!",
    "exclamationmark": "!", "ampersand": "&", "dollar": "$", "percent": "%",
    "asciicircum": "^", "caret": "^", "underscore": "_", "bslash": "\\",
}  # fmt: skip
_NAMES: Final = {
    "cr": "Enter", "ret": "Enter", "linefeed": "Enter", "lfd": "Enter", "nl": "Enter", "bs": "Backspace", "rubout": "Backspace",
    "backdelete": "Backspace", "bspace": "Backspace", "bksp": "Backspace", "bkspc": "Backspace", "bspc": "Backspace",
    "kdel": "Delete", "deletechar": "Delete", "pageprior": "PageUp", "pagenext": "PageDown",
    "ppage": "PageUp", "npage": "PageDown", "pdown": "PageDown", "pup": "PageUp", "pgdwn": "PageDown", "ic": "Insert",
    "dc": "Delete", "cursorleft": "Left", "cursorright": "Right", "cursorup": "Up", "cursordown": "Down", "backtab": "Shift+Tab",
    "btab": "Shift+Tab", "isolefttab": "Shift+Tab", "btn": "", "prtscr": "PrintScreen", "printscrn": "PrintScreen",
    "applications": "Menu", "application": "Menu", "contextmenukey": "Menu", "space": "Space", "homepage": "BrowserHome",
    "www": "BrowserHome", "mail": "LaunchMail", "search": "BrowserSearch", "favorites": "BrowserFavorites", "back": "Backspace",
    "forward": "BrowserForward", "refresh": "BrowserRefresh", "reload": "BrowserRefresh", "explorer": "LaunchApp1",
    "mycomputer": "LaunchApp1", "calculator": "LaunchApp2", "tools": "MediaSelect", "audiomedia": "MediaSelect",
    "audiopause": "PlayPause", "audiorecord": "Record", "audiorewind": "MediaRewind", "audioforward": "MediaFastForward",
    "monbrightnessup": "BrightnessUp", "monbrightnessdown": "BrightnessDown", "poweroff": "Power", "lf": "Enter",
    "kpenter": "NumEnter", "kpadd": "NumAdd", "kpsubtract": "NumSubtract", "kpmultiply": "NumMultiply", "kpdivide": "NumDivide",
    "kpdecimal": "NumDecimal", "kpdelete": "NumDecimal", "kpinsert": "Num0", "kpend": "Num1", "kpdown": "Num2", "kpnext": "Num3",
    "kppagedown": "Num3", "kpleft": "Num4", "kpbegin": "Num5", "kpright": "Num6", "kphome": "Num7", "kpup": "Num8",
    "kpprior": "Num9", "kppageup": "Num9", "kpequal": "NumEqual", "kpseparator": "NumComma", "kplus": "NumAdd",
    "kpplus": "NumAdd", "kpminus": "NumSubtract", "kpasterisk": "NumMultiply", "kpslash": "NumDivide",
    "kminus": "NumSubtract", "kmultiply": "NumMultiply", "kdivide": "NumDivide", "kenter": "NumEnter", "kpoint": "NumDecimal",
    "eingabe": "Enter", "eingabetaste": "Enter", "entf": "Delete", "einfg": "Insert", "pos1": "Home", "ende": "End",
    "bildauf": "PageUp", "bildab": "PageDown", "bildhoch": "PageUp", "bildrunter": "PageDown", "leertaste": "Space",
    "rücktaste": "Backspace", "hoch": "Up", "runter": "Down", "tabulator": "Tab", "tabulatortaste": "Tab",
    "pfeillinks": "Left", "pfeilrechts": "Right",
    "pfeilhoch": "Up", "pfeilauf": "Up", "pfeilrunter": "Down", "pfeilab": "Down", "druck": "PrintScreen", "rollen": "ScrollLock",
    "entrée": "Enter", "échap": "Escape", "suppr": "Delete", "début": "Home", "fin": "End", "espace": "Space", "intro": "Enter",
    "supr": "Delete", "inicio": "Home", "espacio": "Space", "retroceso": "Backspace", "pgpréc": "PageUp", "pgsuiv": "PageDown",
    "invio": "Enter", "canc": "Delete", "spazio": "Space", "aufwärts": "Up", "abwärts": "Down", "links": "Left",
    "rechts": "Right", "einfügen": "Insert", "löschen": "Delete", "rückschritt": "Backspace", "haut": "Up", "bas": "Down",
    "gauche": "Left", "droite": "Right", "arriba": "Up", "abajo": "Down", "izquierda": "Left", "derecha": "Right",
    "su": "Up", "giù": "Down", "sinistra": "Left", "destra": "Right", "sysreq": "PrintScreen", "windowsmenu": "Menu",
    "repag": "PageUp", "repág": "PageUp", "avpag": "PageDown", "avpág": "PageDown", "rpág": "PageUp", "imprpant": "PrintScreen",
    "bloqmayús": "CapsLock", "bloqnum": "NumLock", "flechaarriba": "Up", "flechaabajo": "Down", "flechaizquierda": "Left",
    "flechaderecha": "Right", "teclamenú": "Menu", "menú": "Menu", "barraespaciadora": "Space",
    "pageprécédente": "PageUp", "pagesuivante": "PageDown", "pageprec": "PageUp", "pagesuiv": "PageDown", "pgprec": "PageUp",
    "retourarrière": "Backspace", "inser": "Insert", "insér": "Insert", "impécr": "PrintScreen", "origine": "Home",
    "échappement": "Escape", "tabulation": "Tab", "supprimer": "Delete", "verrmaj": "CapsLock", "verrnum": "NumLock",
    "flèchehaut": "Up", "flèchebas": "Down", "flèchegauche": "Left", "flèchedroite": "Right", "barred'espace": "Space",
    "pagsu": "PageUp", "paggiù": "PageDown", "inizio": "Home", "fine": "End", "frecciasu": "Up", "frecciagiù": "Down",
    "frecciasinistra": "Left", "frecciadestra": "Right", "barraspaziatrice": "Space", "stamp": "PrintScreen",
    "espaço": "Space", "retrocesso": "Backspace", "excluir": "Delete", "início": "Home", "fim": "End", "setaacima": "Up",
    "setaabaixo": "Down", "setaparacima": "Up", "setaparabaixo": "Down", "setaesquerda": "Left", "setadireita": "Right",
    "spatie": "Space", "spatiebalk": "Space", "pijlomhoog": "Up", "pijlomlaag": "Down", "pijllinks": "Left",
    "pijlrechts": "Right", "spacja": "Space", "mellanslag": "Space", "mellomrom": "Space", "mellemrum": "Space",
    "пробел": "Space", "ввод": "Enter", "вверх": "Up", "вниз": "Down", "влево": "Left", "вправо": "Right", "左": "Left",
    "右": "Right", "上": "Up", "下": "Down", "スペース": "Space", "エンター": "Enter", "空格": "Space", "回车": "Enter",
}  # fmt: skip
_DIGIT: Final = re.compile(r"Key[0-9]")
"""A digit key as libraries that open windows name it: "Key0"."""
_ONLY_IN_BRACKETS: Final = frozenset(
    "cr ret lf nl bs ic dc btn www mail search favorites back forward refresh reload explorer tools next prior scroll apps "
    "stop record open copy cut paste find help undo again select power sleep props mycomputer calculator application "
    "applications su haut bas links rechts bar star dot dash quote at less greater question hash pipe "
    "bslash lt gt period colon exclamation "
    "löschen einfügen origine supprimer tabulation excluir inizio fine início fim stamp menú inser".split()
) | TRANSLATED_KEYS.keys()
"""Words of every language: keys only where they are marked as such, or stand with a modifier."""
_TERSE: Final = frozenset(("ret", "cr", "lf", "nl", "bs"))
"""Keys by their old short names, where they stand in capitals."""

MODIFIERS_SPELT: Final = MappingProxyType({
    **TRANSLATED_MODIFIERS, **MODIFIER_ALIASES,
    "mod1": "Alt", "mod4": "Super", "mod": "Super", "$mod": "Super", "accel": "Ctrl", "cmdorctrl": "Ctrl",
    "commandorcontrol": "Ctrl", "ctrlcmd": "Ctrl", "mod5": "AltGr", "isolevel3shift": "AltGr", "controll": "Ctrl",
    "controlr": "Ctrl", "ctrll": "Ctrl", "ctrlr": "Ctrl", "altl": "Alt", "altr": "AltGr", "shiftl": "Shift", "shiftr": "Shift",
    "superl": "Super", "superr": "Super", "metal": "Super", "metar": "Super", "winl": "Super", "logo": "Super",
    "rightalt": "AltGr", "leftalt": "Alt", "rightctrl": "Ctrl", "leftctrl": "Ctrl", "rightcontrol": "Ctrl",
    "leftcontrol": "Ctrl", "leftshift": "Shift", "rightshift": "Shift", "leftsuper": "Super", "rightsuper": "Super",
    "umschalt": "Shift", "umschalttaste": "Shift", "steuerung": "Ctrl", "maj": "Shift", "mayus": "Shift", "mayús": "Shift",
    "maiusc": "Shift", "windowstaste": "Super", "befehl": "Super", "lalt": "Alt", "ralt": "AltGr",
    "lctrl": "Ctrl", "rctrl": "Ctrl", "lshift": "Shift",
    "rshift": "Shift", "controlleft": "Ctrl", "ctrlleft": "Ctrl", "altleft": "Alt", "altright": "AltGr", "metaleft": "Super",
    "shiftleft": "Shift", "secondary": "Alt", "tertiary": "Shift", "level4": "Super", "shft": "Shift",
    "ctlr": "Ctrl", "majuscule": "Shift", "commande": "Super", "opción": "Alt", "mayúsculas": "Shift",
    "skift": "Shift", "maiuscolo": "Shift", "maiuscole": "Shift",
})  # fmt: skip
"""Every spelling of a modifier, without blanks, dashes and underlines."""
GLYPHS: Final = MappingProxyType(
    {"⌘": "Super", "❖": "Super", "⊞": "Super", "⇧": "Shift", "⌃": "Ctrl", "⌥": "Alt", "✦": "Hyper"}
)
LETTERS: Final = MappingProxyType(
    {
        "C": "Ctrl",
        "c": "Ctrl",
        "M": "Alt",
        "m": "Alt",
        "A": "Alt",
        "S": "Shift",
        "s": "Super",
        "H": "Hyper",
        "W": "Super",
    }
)
"""Prefixes of one letter, outside brackets."""
LETTERS_IN_BRACKETS: Final = MappingProxyType(
    {"c": "Ctrl", "m": "Alt", "a": "Alt", "s": "Shift", "d": "Super", "h": "Hyper", "t": "Alt"}
)

_OF_NOTATION: Final = {
    **{re.sub(r"[ _-]", "", spelling): name for spelling, name in KEY_ALIASES.items()},
    **{
        code.lower(): NAMES_OF_CODES[code]
        for code in CODES
        if code in NAMES_OF_CODES and code not in ("Backquote", "Quote")
    },
}
KEYS_SPELT: Final = MappingProxyType({
    **{name: key for name, key in {**TRANSLATED_KEYS, **_OF_NOTATION, **_NAMES, **_SIGNS}.items() if key},
})  # fmt: skip
"""Every spelling of a key, without blanks, dashes and underlines."""


def normal(word: str) -> str:
    """Return a name without what is written in it one way or another."""
    return re.sub(r"[ _-]", "", word).lower()


def modifier_named(word: str) -> str | None:
    """Return the modifier of a name; None for another word."""
    return MODIFIERS_SPELT.get(normal(word)) or None


def key_named(word: str, marked: bool = False) -> str | None:
    """Return the key of a name; None for another word. ``marked``: it stands in brackets or with a modifier, and must be a
    key."""
    if word in CODES:
        place = NAMES_OF_CODES.get(word) or re.sub(r"^(?:Key|Digit)", "", word)
        return place if len(place) == 1 or word in NAMES_OF_CODES else KEYS_SPELT.get(normal(word))
    if _DIGIT.fullmatch(word):
        return word[-1]
    name = normal(word)
    if name == "xf86back":
        return "BrowserBack"
    name = name.removeprefix("xf86")
    terse = word.isupper() and name in _TERSE
    if not marked and name in _ONLY_IN_BRACKETS and not terse and not word.lower().startswith("xf86"):
        return None
    return KEYS_SPELT.get(name)
