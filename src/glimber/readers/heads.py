"""The words that tables use for their columns, in the languages that people have tables in."""

from __future__ import annotations

import re
from typing import Final

NAME_OF_KEYS: Final = re.compile(
    r"(?:^|[\W_])(?:hot[ _]?keys?|keys?|key[ _]?map|(?:key[ _]?)?bindings?|shortcuts?|accelerators?)(?:$|[\W_])", re.I
)
"""The name of a section, or of a map, that has keys."""
KEYS: Final = frozenset(
    """
taste tasten tastenkürzel tastenkombination tastenkombinationen tastatur kürzel kurzbefehl kurzwahl tastaturbefehl
touche touches raccourci raccourcis combinaison clavier
tecla teclas atajo atajos combinación acceso
tasto tasti scorciatoia scorciatoie combinazione
atalho atalhos combinação
toets toetsen sneltoets sneltoetsen toetscombinatie
klawisz klawisze skrót skróty kombinacja
клавиша клавиши сочетание комбинация клавіша клавіші сполучення
drecera dreceres tangent tangenter kortkommando kortkommandon snabbtangent klávesa klávesy zkratka zkratky
billentyű gyorsbillentyű billentyűparancs tast taster genvej genveje snarvei pikanäppäin näppäin tuş tuşlar kısayol
tastă scurtătură prečica prečice tipka bližnjica πλήκτρο συντόμευση tombol pintasan phím taustiņš klavišas
キー ショートカット 快捷键 按键 键 키 단축키
""".split()
)
OTHER_KEYS: Final = frozenset(
    """
alternative alternativ alternativen zweite alternativa alternatief alternatywa autre otra otro
""".split()
)
COMMANDS: Final = frozenset(
    """
befehl befehle aktion funktion beschreibung bedeutung wirkung
commande commandes fonction effet
comando comandos acción función descripción
azione funzione descrizione
ação função descrição
opdracht actie functie omschrijving
polecenie akcja funkcja opis
команда действие функция описание дія опис
acció ordre åtgärd akce művelet handling toiminto eylem acțiune radnja dejanje ενέργεια aksi darbība veiksmas
コマンド 機能 操作 説明 命令 功能 说明 명령 기능 설명
longname command-id identifier
""".split()
)
GROUPS: Final = frozenset(
    """
bereich gruppe kategorie abschnitt groupe catégorie rubrique grupo categoría gruppo categoria groep grupa
группа раздел カテゴリ 分類 分类 범주 sheet
""".split()
)
_LONGEST: Final = 4
"""A heading of more words is a sentence."""


def names_keys(words: str) -> bool:
    """Return True if a heading, in small letters, is one of keys: "raccourci clavier", "atajo de teclado"."""
    parts = words.split()
    return 0 < len(parts) <= _LONGEST and any(part in KEYS for part in parts)
