"""Names of keys and modifiers as they are printed on keyboards, or written in the help of desktops, in further languages.

Spelt without blanks, dashes and underlines, in small letters. Many of them are words as well: they are keys only where they are
marked as such, or stand with a modifier.
"""

from __future__ import annotations

from types import MappingProxyType
from typing import Final

TRANSLATED_KEYS: Final = MappingProxyType({
    # Catalan, Galician
    "retorn": "Enter", "espai": "Space", "escapada": "Escape", "repàg": "PageUp", "avpàg": "PageDown", "imprimeix": "PrintScreen",
    "fletxaesquerra": "Left", "fletxadreta": "Right", "fletxaamunt": "Up", "fletxaavall": "Down", "retrocés": "Backspace",
    "suprimeix": "Delete", "inici": "Home", "bloqnúm": "NumLock", "avpáx": "PageDown", "repáx": "PageUp", "imp": "PrintScreen",
    # German, French, Spanish
    "bild↓": "PageDown", "bild↑": "PageUp", "löschtaste": "Delete", "pagehaut": "PageUp", "pagebas": "PageDown",
    "impr.écran": "PrintScreen", "barred’espace": "Space", "imppant": "PrintScreen", "blocnum": "NumLock",
    # Swedish, Danish, Norwegian, Finnish
    "retur": "Enter", "tabb": "Tab", "blanksteg": "Space", "meny": "Menu", "vänsterpil": "Left", "högerpil": "Right",
    "uppåtpil": "Up", "nedåtpil": "Down", "venstrepil": "Left", "højrepil": "Right", "høyrepil": "Right", "piltop": "Up",
    "välilyönti": "Space", "nuolivasemmalle": "Left", "nuolioikealle": "Right",
    # Czech, Slovak, Slovenian, Hungarian
    "mezerník": "Space", "šipkavlevo": "Left", "šipkavpravo": "Right", "šipkanahoru": "Up", "šipkadolů": "Down",
    "medzerník": "Space", "preslednica": "Space", "szóköz": "Space", "entert": "Enter", "menü": "Menu",
    # Serbian, Croatian
    "унеси": "Enter", "unesi": "Enter", "таб": "Tab", "размак": "Space", "razmak": "Space", "изађи": "Escape", "izađi": "Escape",
    "обриши": "Delete", "obriši": "Delete", "страницагоре": "PageUp", "страницадоле": "PageDown", "stranicagore": "PageUp",
    "stranicadole": "PageDown", "izbornik": "Menu", "изборник": "Menu", "закључајброј": "NumLock", "zaključajbroj": "NumLock",
    # Ukrainian, Russian, Greek, Persian
    "пробіл": "Space", "меню": "Menu", "διάστημα": "Space", "μενού": "Menu", "ورود": "Enter", "جهش": "Tab", "گریز": "Escape",
    "فاصله": "Space", "صفحهبالا": "PageUp", "صفحهپایین": "PageDown",
    # Indonesian, Vietnamese, Chinese, Marathi
    "spasi": "Space", "khoảngtrắng": "Space", "回车键": "Enter", "空格键": "Space", "स्पेस": "Space",
})  # fmt: skip
TRANSLATED_MODIFIERS: Final = MappingProxyType({
    "súper": "Super", "супер": "Super", "سوپر": "Super", "λογότυπο": "Super", "सुपर": "Super", "superbillentyű": "Super",
    "алт": "Alt", "دگرساز": "Alt", "ктрл": "Ctrl", "ktrl": "Ctrl", "مهار": "Ctrl", "шифт": "Shift", "šift": "Shift",
    "تبدیل": "Shift", "maiús": "Shift", "помак": "Shift", "pomak": "Shift",
})  # fmt: skip
