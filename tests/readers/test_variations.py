"""Ways in which people write shortcuts down, each as a short made-up source: what must be read of it, and what must not.

A row is a command and its triggers; without triggers it is a command that has no keys.
"""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from glimber.readers.evidence import systems_named
from glimber.readers.found import Options, for_this_system
from glimber.readers.registry import choose, read

Rows = list[tuple[str, ...]]

CASES: dict[str, tuple[str, str, Rows]] = {
    "a column of pages between keys and commands": (
        "a.txt", "Key       Page   Command\nCtrl+O    12     Open sheet\nCtrl+S    13     Save sheet\n",
        [("Open sheet", "Ctrl+O"), ("Save sheet", "Ctrl+S")]),
    "keys among settings of all kinds": (
        "a.plist", '{\n  Face = "Chart Sans";\n  Speed = 4;\n  Smooth = NO;\n  Back = (solid, gray);\n  Icons = YES;\n  Depth = 12;\n'
        '  NextSheetKey = "Mod1+Control+Right";\n  SheetListKey = F12;\n  HideLandKey = "Mod1+H";\n  SoundKey = None;\n}\n',
        [("NextSheetKey", "Ctrl+Alt+Right"), ("SheetListKey", "F12"), ("HideLandKey", "Alt+H"), ("SoundKey",)]),
    "heads that name their systems": (
        "a.md", "Shortcut (Windows / Linux) | Shortcut (macOS) | Action\n:-- | :-- | :--\n"
        "<kbd>Ctrl</kbd>-<kbd>B</kbd> | <kbd>Cmd</kbd>-<kbd>B</kbd> | \"toggleBuoys\"\n"
        "<kbd>Ctrl</kbd>-<kbd>L</kbd> | <kbd>Cmd</kbd>-<kbd>L</kbd> | \"toggleLand\"\n",
        [("toggleBuoys", "Ctrl+B"), ("toggleLand", "Ctrl+L")]),
    "a command called like its key": (
        "a.csv", "Command,Keys\nDelete,Delete\nHome,Home\nOpen sheet,Ctrl+O\nSave sheet,Ctrl+S\n",
        [("Delete", "Delete"), ("Home", "Home"), ("Open sheet", "Ctrl+O"), ("Save sheet", "Ctrl+S")]),
    "names set to letters": (
        "a.conf", "help = h ?\nmenu = m\nzoom_in = plus\nquit = q\nfollow = f (default on)\n",
        [("help", "h", "?"), ("menu", "m"), ("zoom_in", "+"), ("quit", "q"), ("follow", "f")]),
    "no letters but answers": ("a.conf", "colour = y\nsound = n\nfollow = y\nwrap = n\ntabs = y\n", []),
    "chords with a blank between": (
        "a.conf", "zoom_in: Control+plus Control+equal Control+KP_Add\nreload: F5 Control+r\n",
        [("zoom_in", "Ctrl++", "Ctrl+=", "Ctrl+NumAdd"), ("reload", "F5", "Ctrl+R")]),
    "chords with a blank between that have a stem": (
        "a.conf", "open: Control+k Control+o\nsave: Control+k Control+s\nclose: Control+k Control+w\n",
        [("open", "Ctrl+K Ctrl+O"), ("save", "Ctrl+K Ctrl+S"), ("close", "Ctrl+K Ctrl+W")]),
    "a word of the program's own before quoted keys": (
        "a.txt", '\\bind "C-n" "buffer-new"\n\\bind "F5" "build"\n', [("buffer-new", "Ctrl+N"), ("build", "F5")]),
    "colons between": (
        "a.conf", "KEYMAP:^R:RELOAD\nKEYMAP:KEY_F(5):REFRESH\n", [("RELOAD", "Ctrl+R"), ("REFRESH", "F5")]),
    "names and keys as neighbours": (
        "a.xml", "<d><action>zoom-in</action><bind>plus</bind><action>paste</action><bind>Shift+&Ins;</bind></d>",
        [("zoom-in", "+"), ("paste", "Shift+Insert")]),
    "several keys beside one name": (
        "a.xml", "<d><r><name>Paste</name><key>Ctrl+V</key><key>Shift+Insert</key></r><r><name>Cut</name><key>Ctrl+X</key></r></d>",
        [("Paste", "Ctrl+V", "Shift+Insert"), ("Cut", "Ctrl+X")]),
    "a prefix of a terminal": (
        "a.conf", "set -g prefix C-a\nbind c new-window\nbind -n M-Left select-pane -L\nbind-key | split-window -h\n",
        [("new-window", "Ctrl+A c"), ("select-pane -L", "Alt+Left"), ("split-window -h", "Ctrl+A |")]),
    "an escape character": ("a.conf", "escape ^Aa\nbind c screen\nbind ^k kill\n", [("screen", "Ctrl+A c"), ("kill", "Ctrl+A Ctrl+K")]),
    "signs after a prefix, quoted and with a backslash": (
        "a.conf", "set -g prefix C-b\nbind '\"' split -v\nbind \"'\" pick\nbind \\# buffers\nbind \\\\ choose\nbind -n F5 again\n",
        [("split -v", 'Ctrl+B "'), ("pick", "Ctrl+B '"), ("buffers", "Ctrl+B #"), ("choose", "Ctrl+B \\"), ("again", "F5")]),
    "commas where every row begins with another key": (
        "a.csv", "Command,Keys\nCopy,\"Ctrl+C,Ctrl+Insert\"\nPaste,\"Ctrl+V,Shift+Insert\"\nNext,\"Down,Ctrl+N\"\nBack,\"Up,Ctrl+P\"\n"
        "Cut,\"Ctrl+X,Shift+Delete\"\nEnd,\"End,Ctrl+E\"\n",
        [("Copy", "Ctrl+C", "Ctrl+Insert"), ("Paste", "Ctrl+V", "Shift+Insert"), ("Next", "Down", "Ctrl+N"), ("Back", "Up", "Ctrl+P"),
         ("Cut", "Ctrl+X", "Shift+Delete"), ("End", "End", "Ctrl+E")]),
    "options with what they do and their default below": (
        "a.txt", "fold-chart:\n  Fold the chart\n\n  Default: Control+k\n\ntide-table:\n  Open the tide table\n\n  Default: Control+t\n",
        [("fold-chart", "Ctrl+K"), ("tide-table", "Ctrl+T")]),
    "signs of a help viewer": (
        "a.txt", "Keys\n\n\bCtrl-l\v  draws it anew.\n\n\bCtrl-x c\v\n        folds the chart.\n\n\bCtrl-x l\v\n        links it.\n",
        [("draws it anew.", "Ctrl+L"), ("folds the chart.", "Ctrl+X c"), ("links it.", "Ctrl+X l")]),
    "menu entries in bold with their keys": (
        "a.txt", "**New Page <Ctrl><N>**\nMake a page.\n\n**Save Version <Shift><Ctrl><S>**\nSave it.\n\n**Close <Ctrl><W>**\nLeave it.\n",
        [("New Page", "Ctrl+N"), ("Save Version", "Ctrl+Shift+S"), ("Close", "Ctrl+W")]),
    "several chords for an action": (
        "a.py", "ACCELS = {\n    'view.refresh': ('<Control>R', 'F5'),\n    'view.save': '<Control>S',\n    'view.undo': '<Control>Z',\n}\n",
        [("view.refresh", "Ctrl+R", "F5"), ("view.save", "Ctrl+S"), ("view.undo", "Ctrl+Z")]),
    "a keymap of a browser": (
        "a.conf", "keymap C-k COOKIE\nkeymap \\\" REG_MARK\nkeymap \\^ LINE_BEGIN\nkeymap a SAVE\n",
        [("COOKIE", "Ctrl+K"), ("REG_MARK", '"'), ("LINE_BEGIN", "^"), ("SAVE", "a")]),
    "sentences and plain blocks of a readme": (
        "a.md", "# Chart\n\nPress `Ctrl+K` to fold the chart.\n\n```\nCtrl+Down   Next line\nCtrl+Up     Previous line\nF6          Show map\n"
        "```\n\n```sh\npip install chart\n```\n",
        [("fold the chart", "Ctrl+K"), ("Next line", "Ctrl+Down"), ("Previous line", "Ctrl+Up"), ("Show map", "F6")]),
    "a prefix among values": (
        "a.yaml", "prefix: Ctrl+B\nbindings:\n  new_window: c\n  close: x\n", [("new_window", "Ctrl+B c"), ("close", "Ctrl+B x")]),
    "a leader among values": (
        "a.json", '{"leader": "Space", "normal": {"find_file": "f", "quit": "q"}, "theme": "dark"}',
        [("find_file", "Space f"), ("quit", "Space q")]),
    "a command without keys": (
        "a.txt", "Open batch, Ctrl+O\nDiscard batch,\nSave batch, Ctrl+S\n",
        [("Open batch", "Ctrl+O"), ("Discard batch",), ("Save batch", "Ctrl+S")]),
    "the mouse with keys": ("a.txt", "Ctrl+Left button    drag the view\nMiddle button       pan\nF5   reload\n", [("reload", "F5")]),
    "several keys for as many commands": (
        "a.txt", "F5 / F6   save / render\nLeft / Right   previous / next\nCtrl+T   new tab\n",
        [("save", "F5"), ("render", "F6"), ("previous", "Left"), ("next", "Right"), ("new tab", "Ctrl+T")]),
    "the number pad": ("a.txt", "num +   zoom in\nnum -   zoom out\nF3   find\n", [("zoom in", "NumAdd"), ("zoom out", "NumSubtract"), ("find", "F3")]),
    "pairs beside each other": (
        "a.txt", "Ctrl+A select all    Ctrl+C copy\nCtrl+Z undo          F1 help\n",
        [("select all", "Ctrl+A"), ("copy", "Ctrl+C"), ("undo", "Ctrl+Z"), ("help", "F1")]),
    "cells beside each other": (
        "a.txt", "^X^S  Save      ^X^C  Quit\n^G    Cancel    ^H    Help\n",
        [("Save", "Ctrl+X Ctrl+S"), ("Quit", "Ctrl+X Ctrl+C"), ("Cancel", "Ctrl+G"), ("Help", "Ctrl+H")]),
    "alternates of other modifiers with a comma": (
        "a.txt", "Alt+b,Control+Left   backward word\nAlt+f,Control+Right  forward word\n",
        [("backward word", "Alt+B", "Ctrl+Left"), ("forward word", "Alt+F", "Ctrl+Right")]),
    "alternates of steps with a comma": (
        "a.1.txt", "KEYS\n       C-a b, C-a B\n              Send break.\n       F5\n              Reload.\n",
        [("Send break.", "Ctrl+A b", "Ctrl+A Shift+B"), ("Reload.", "F5")]),
    "keys by system": (
        "a.txt", "Cmd+S (mac) / Ctrl+S (pc)   Save sheet\nCmd+O (mac) / Ctrl+O (pc)   Open sheet\n",
        [("Save sheet", "Ctrl+S"), ("Open sheet", "Ctrl+O")]),
    "the other system's keys beside a name": (
        "a.txt", "Save (Cmd+S on macOS)    Ctrl+S\nUndo .......... Ctrl+Z (Cmd+Z on Mac)\n", [("Save", "Ctrl+S"), ("Undo", "Ctrl+Z")]),
    "entries and flags of a script": (
        "a.py", "KEYS = {\n    'open': 'Ctrl+O',\n    'save': QKeySequence(Qt.CTRL | Qt.Key_S),\n}\n"
                "self.export.setShortcut(QKeySequence(Qt.CTRL + Qt.SHIFT + Qt.Key_E))\n",
        [("open", "Ctrl+O"), ("save", "Ctrl+S"), ("export", "Ctrl+Shift+E")]),
    "another language with its own names of keys": (
        "a.txt", "Bearbeiten\n  Löschen ........... Entf\n  Einfügen .......... Strg+V oder Umschalt+Einfg\n",
        [("Löschen", "Delete"), ("Einfügen", "Ctrl+V", "Shift+Insert")]),
    "a head that says whose keys": ("a.csv", "Action,Default\nZoom out,Ctrl+-\nFit all,\nReload,F5\n",
                                    [("Zoom out", "Ctrl+-"), ("Fit all",), ("Reload", "F5")]),
    "objects of a script with keys by system": (
        "a.js", "/*! chart office */\nexport default [{\n  bindKey: { win: 'ctrl-k ctrl-d|f3', mac: 'cmd-k cmd-d' }, name: 'findSounding',\n"
                "  exec: function (chart) { if (/[\"']\\//.test(chart)) { return; } }\n}, { bindKey: 'alt-.', name: 'closeSheet' }];\n",
        [("findSounding", "Ctrl+K Ctrl+D", "F3"), ("closeSheet", "Alt+.")]),
    "alternates that differ by system alone": (
        "a.ts", 'const actions = [\n  { id: "open", label: "Open sheet", kbd: "cmd+o,ctrl+o" },\n  { id: "list", label: "List quays", kbd: "cmd+alt+/,ctrl+alt+/" },\n];\n',
        [("Open sheet", "Ctrl+O"), ("List quays", "Ctrl+Alt+/")]),
    "maps of a script by system": (
        "a.js", "options = { keyMap: {\n  pc: { 'CTRL+Z': 'undo', 'ESC': 'leave', 'CTRL+LEFTBRACKET': 'outdent' },\n"
                "  mac: { 'CMD+Z': 'undo', 'ESC': 'leave', 'CMD+LEFTBRACKET': 'outdent' } } };\n",
        [("undo", "Ctrl+Z"), ("leave", "Escape"), ("outdent", "Ctrl+[")]),
    "a call many times, its keys mostly letters": (
        "a.py", "def sheet(km):\n" + "".join(f'    km.add("{key}", "sheet.{name}", ["list"], "{said}")\n' for key, name, said in (
            ("q", "leave", "Leave the sheet"), ("B", "berth", "Berth a ship"), (":", "ask", "Ask for a command"), ("esc", "up", "Go up"),
            ("ctrl f", "down", "Page down"), ("l", "log", "Open the log"), ("t", "tide", "Show the tide"), ("w", "wind", "Show the wind"),
            ("?", "help", "View help"))),
        [("Leave the sheet", "q"), ("Berth a ship", "Shift+B"), ("Ask for a command", ":"), ("Go up", "Escape"), ("Page down", "Ctrl+F"),
         ("Open the log", "l"), ("Show the tide", "t"), ("Show the wind", "w"), ("View help", "?")]),
    "decorators with what the function says": (
        "a.py", 'handle = keys.add\n\n@handle("c-l")\ndef _(event):\n    """\n    Clear the chart.\n    """\n\n@handle("c-x", "c-s", eager=True)\ndef save_sheet(event):\n    pass\n',
        [("Clear the chart", "Ctrl+L"), ("save_sheet", "Ctrl+X Ctrl+S")]),
    "constants of a toolkit and names given elsewhere": (
        "a.py", "self.open = QAction(parent)\nself.open.setShortcuts(QKeySequence.Open)\nself.goto.setShortcut(Qt.CTRL + Qt.ALT + Qt.Key_G)\n"
                "self.full.setShortcuts([QKeySequence(Qt.CTRL + Qt.SHIFT + Qt.Key_F), QKeySequence(Qt.Key_F11)])\n"
                'self.open.setText(_("&Open Sheet..."))\nself.goto.setText(_("action: go", "&Go to Depth"))\n',
        [("Open Sheet", "Ctrl+O"), ("Go to Depth", "Ctrl+Alt+G"), ("full", "Ctrl+Shift+F", "F11")]),
    "a modifier in a variable, what it does said before": (
        "a.lua", 'META = "Mod4+"\ndefbindings("Sheet", {\n    bdoc("Split the sheet."),\n    kpress(META.."I", "split(_)"),\n'
                 '    bdoc("Close the sheet."),\n    kpress(META.."X", "close(_)"),\n    kpress(META.."Tab", "next(_)"),\n})\n',
        [("Split the sheet.", "Super+I"), ("Close the sheet.", "Super+X"), ("next(_)", "Super+Tab")]),
    "sentences": (
        "a.txt", "Notes on the keys\n\nfold the chart with keystroke control-x + e!\n\nPress the Escape key to leave the sheet.\n\n"
                 "The M key mutes the fog horn.\n\nturn off the fog horn with the --mute option!\n\nTo list all quays, press Ctrl+Shift+Q.\n",
        [("fold the chart", "Ctrl+X e"), ("leave the sheet", "Escape"), ("mutes the fog horn", "m"), ("list all quays", "Ctrl+Shift+Q")]),
    "marked keys that go on in words": (
        "a.md", "# Keys\n\n * **Mod-b** to berth a ship\n * **Mod-`** for the [log](#log) of\n   the watch\n * **Enter** to split an entry\n * `options`: what there is\n",
        [("berth a ship", "Ctrl+B"), ("the log of the watch", "Ctrl+`"), ("split an entry", "Enter")]),
    "a document with entities of its own and of its family": (
        "a.docbook", '<?xml version="1.0"?>\n<!DOCTYPE book PUBLIC "-//Office//DTD//EN" "dtd/office.dtd" [\n<!ENTITY office "Chart Office">\n'
                     '<!ENTITY % English "INCLUDE">\n]>\n<book><title>&office;</title><para><variablelist>\n'
                     "<varlistentry><term><shortcut><keycombo>&Ctrl;&Shift;<keycap>T</keycap></keycombo></shortcut><guimenuitem>Reopen sheet"
                     "</guimenuitem></term></varlistentry>\n<varlistentry><term><shortcut><keycap>F7</keycap></shortcut><guimenuitem>Show quays"
                     "</guimenuitem></term></varlistentry></variablelist></para></book>",
        [("Reopen sheet", "Ctrl+Shift+T"), ("Show quays", "F7")]),
    "a modifier that the page defines": (
        "a_man.txt", "KEYS\n     Each key begins with Mod which defaults to ^g but can be changed.\n\n     Mod-c\n       Open a chart.\n\n     Mod-x-x\n       Close the chart.\n",
        [("Open a chart.", "Ctrl+G c"), ("Close the chart.", "Ctrl+G x x")]),
    "key caps drawn with angle brackets": (
        "a.txt", "<A>\n     Toggle anchorages\n\n<C-P>\n     Print the chart\n\n<S-P>\n     Present the chart\n\n<O>\n     Open a chart\n",
        [("Toggle anchorages", "a"), ("Print the chart", "Ctrl+P"), ("Present the chart", "Shift+P"), ("Open a chart", "o")]),
    "keys and names that are keys as well": (
        "a.txt", "KEYS\n  F5     reload\n  F9     menu\n  Tab    next frame\n  ^L     redraw\n  ^R     repeat\n  F2     rename\n  ^W     wind\n"
                 "  Space  page down\n  PGUP   page up\n  ^INS   copy to clipboard\n",
        [("reload", "F5"), ("menu", "F9"), ("next frame", "Tab"), ("redraw", "Ctrl+L"), ("repeat", "Ctrl+R"), ("rename", "F2"),
         ("wind", "Ctrl+W"), ("page down", "Space"), ("page up", "PageUp"), ("copy to clipboard", "Ctrl+Insert")]),
    "settings that all stand as comments": (
        "a.conf", "# A sample of the settings\n[keyboard]\n# open_sheet = F8\n# save_sheet = C-s\n# undo = C-r\n# close_sheet = C-w\n# find = F3\n",
        [("open_sheet", "F8"), ("save_sheet", "Ctrl+S"), ("undo", "Ctrl+R"), ("close_sheet", "Ctrl+W"), ("find", "F3")]),
    "commas between alternates, each row with its own": (
        "a.md", "| Keys | Command |\n|---|---|\n| F3, Ctrl+G | Find next |\n| Shift+F3, Ctrl+Shift+G | Find previous |\n| Ctrl+O | Open |\n",
        [("Find next", "F3", "Ctrl+G"), ("Find previous", "Shift+F3", "Ctrl+Shift+G"), ("Open", "Ctrl+O")]),
    "letters in brackets and alone, set to names": (
        "a.ini", "[list]\n<Up>,k = {ACTION_UP}\n? = {ACTION_HELP}\n<Enter>,<Equals> = {ACTION_SHOW}\n<Ctrl> b = {ACTION_BACK}\nZZ = {ACTION_LEAVE}\n"
                 "a = {ACTION_ADD}\nA = {ACTION_NOTE}\nd = {ACTION_DONE}\n",
        [("{ACTION_UP}", "Up", "k"), ("{ACTION_HELP}", "?"), ("{ACTION_SHOW}", "Enter", "="), ("{ACTION_BACK}", "Ctrl+B"),
         ("{ACTION_LEAVE}", "Shift+Z Shift+Z"), ("{ACTION_ADD}", "a"), ("{ACTION_NOTE}", "Shift+A"), ("{ACTION_DONE}", "d")]),
    "digits from one to nought, and a key again": (
        "a.html", "<table><tr><th>Action</th><th>Keys</th></tr><tr><td>Depth</td><td>1 \u2026 0</td></tr>"
                  "<tr><td>Lead</td><td>J, again Shift+J</td></tr><tr><td>Open</td><td>Ctrl+O</td></tr></table>",
        [("Depth", *"1234567890"), ("Lead", "j", "Shift+J"), ("Open", "Ctrl+O")]),
    "the synopsis of a manual page": (
        "a.1.txt", "SYNOPSIS\n       office [ --print | control ]\n       office [ --open sheet | - ]\n\nKEYS\n       Ctrl+O   Open sheet\n       F5       Reload\n",
        [("Open sheet", "Ctrl+O"), ("Reload", "F5")]),
    "names with their keys in brackets behind, in two modes": (
        "sheet_man.txt", "MOVING\n       sheet-left (^B ESC-[D) (unbound)\n              Go one sheet to the left.\n       sheet-end (^Xe) (G)\n"
        "              Go to the last sheet.\n       undo-line (unbound) (unbound)\n              Take a line back.\n"
        "       find-buoy (^Xb) (b)\n              Find a buoy.\n       first-sheet (unbound) (gg)\n              Go to the first sheet.\n"
        "       mark (unbound) (m)\n              Mark it.\n",
        [("sheet-left", "Ctrl+B", "Left"), ("sheet-end", "Ctrl+X e", "Shift+G"), ("undo-line",), ("find-buoy", "Ctrl+X b", "b"),
         ("first-sheet", "g g"), ("mark", "m")]),
    "names with their keys in brackets behind, a comma between": (
        "sheet_man.txt", "       sheet-start (C-a, home)\n              Go to its start.\n       sheet-end (C-e, end)\n              Go to its end.\n"
        "       redo (C-x C-r)\n              Again.\n       find (M-/)\n              Find.\n",
        [("sheet-start", "Ctrl+A", "Home"), ("sheet-end", "Ctrl+E", "End"), ("redo", "Ctrl+X Ctrl+R"), ("find", "Alt+/")]),
    "keys after the word default, below a name": (
        "sheet.ini_man.txt", "       find-start\n           Begins to look. Default: Control+Shift+f.\n\n       larger\n           Larger type. "
        "Default: Control+plus Control+equal Con\u2010\n           trol+KP_Add.\n\n       leave\n           Leaves. "
        "Default: Control+g Control+c Escape (as in lists).\n",
        [("find-start", "Ctrl+Shift+F"), ("larger", "Ctrl++", "Ctrl+=", "Ctrl+NumAdd"), ("leave", "Ctrl+G", "Ctrl+C", "Escape")]),
    "a key, where the pointer is, and modifiers by letters": (
        "desk.config", "# Format: Key <X> <Context> <Modifier> <Action>\nSilent Key F1 A M Menu Charts\nKey F1 A C GotoSheet 0\nKey F2 A SC GotoSheet 1\n"
        "Key Tab R 4 SheetList\nMouse 1 R A Menu Charts\n",
        [("Menu Charts", "Alt+F1"), ("GotoSheet 0", "Ctrl+F1"), ("GotoSheet 1", "Ctrl+Shift+F2"), ("SheetList", "Super+Tab")]),
    "keys in quotes and what they do in braces, one within another": (
        "keys", 'Global {\n\tPressKey = "Mod4 Z" { Actions = "Mark" }\n\tPressKey = "Ctrl Mod1 Delete" { Actions = "Reload" }\n'
        '\tChain = "Ctrl Mod1 C" {\n\t\tPressKey = "Q" { Actions = "Corner TopLeft" }\n\t\tPressKey = "Shift A" { Actions = "Edge Left" }\n\t}\n'
        '\tPressKey = "Mod4 E" { Actions = "Exec survey" }\n}\n',
        [("Mark", "Super+Z"), ("Reload", "Ctrl+Alt+Delete"), ("Corner TopLeft", "Ctrl+Alt+C q"), ("Edge Left", "Ctrl+Alt+C Shift+A"),
         ("Exec survey", "Super+E")]),
    "modifiers by letters that stand together": (
        "desk.conf", "bind-key CM-r list-sheets\nbind-key CS-Return open-sheet\nbind-key C4-equal widen\nbind-key M-1 sheet-1\n",
        [("list-sheets", "Ctrl+Alt+R"), ("open-sheet", "Ctrl+Shift+Enter"), ("widen", "Ctrl+Super+="), ("sheet-1", "Alt+1")]),
    "a sign that stands for a modifier": (
        "sheet_man.txt", "Keys: ^ is the Control key and # denotes the <Meta> or <Alt> key in what follows.\n\n        ^a select all\n        ^q leave\n"
        "        #c rotate it\n        #[ align the left sides\n        ^#k colour of the sheet\n",
        [("select all", "Ctrl+A"), ("leave", "Ctrl+Q"), ("rotate it", "Alt+C"), ("align the left sides", "Alt+["),
         ("colour of the sheet", "Ctrl+Alt+K")]),
    "another way in brackets, and another system's beside it": (
        "a.html", "<ul><li><kbd>Alt</kbd>+<kbd>H</kbd> (or <kbd>F1</kbd>) shows the page of the sheet.</li></ul>"
        "<table><tr><th>Action</th><th>Keys</th></tr><tr><td>Line up</td><td>ctrl+shift+up (also \u2325+\u2318+\u2191 and \u2318+\u2191 on macOS)</td></tr>"
        "<tr><td>New sheet</td><td>ctrl+shift+n (also \u2318+n on macOS)</td></tr></table>",
        [("shows the page of the sheet.", "Alt+H", "F1"), ("Line up", "Ctrl+Shift+Up"), ("New sheet", "Ctrl+Shift+N")]),
    "a table of rows in braces": (
        "binds.lua", '_M.sheet_binds = {\n    { "<Control-d>", "Half a sheet down.", function (w) w:scroll{ rel = 0.5 } end },\n'
        '    { "<Control-u>", "Half a sheet up.", function (w) w:scroll{ rel = -0.5 } end },\n    { "gg", "Go to the top.", function (w) w:top() end },\n'
        '    { "<Control-e>", actions.scroll.down },\n}\n',
        [("Half a sheet down.", "Ctrl+D"), ("Half a sheet up.", "Ctrl+U"), ("Go to the top.", "g g"), ("actions.scroll.down", "Ctrl+E")]),
    "a comma between keys and what they do": (
        "a.html", "<ul><li><b>Ctrl-N</b>, begin a sheet.</li><li><b>Ctrl-S</b>, save the sheet.</li><li><b>F5</b>, read it again.</li></ul>",
        [("begin a sheet.", "Ctrl+N"), ("save the sheet.", "Ctrl+S"), ("read it again.", "F5")]),
    "commented defaults whose keys come first": (
        "sheetrc", "# Keys of the chart window\n#\n# open a sheet\n#<ctrl>o = open\n# <ctrl><shift>tab = left-sheet\n# <ctrl>PageUp = left-sheet\n"
        "#backspace = back\n#, = back\n#esc = hide-panels\n#pageup = up\n#b = up\n#<alt>f = file-menu\n#<ctrl>r = reload\n",
        [("open", "Ctrl+O"), ("left-sheet", "Ctrl+Shift+Tab"), ("left-sheet", "Ctrl+PageUp"), ("back", "Backspace"), ("back", ","),
         ("hide-panels", "Escape"), ("up", "PageUp"), ("up", "b"), ("file-menu", "Alt+F"), ("reload", "Ctrl+R")]),
    "characters in quotes and codes of keys": (
        "keys", "## Leave\nkey leave = 'q', 'Q', 3\nkey up = 259, 'k'\nkey play = 13\nkey pause = 'P'\nkey list = '2', 266\n",
        [("leave", "q", "Shift+Q", "Ctrl+C"), ("up", "Up", "k"), ("play", "Enter"), ("pause", "Shift+P"), ("list", "2", "F2")]),
    "names with their keys in brackets, arguments before and text behind": (
        "desk_man.txt", "COMMANDS\n" + "".join(
            f"       {name}\n              Something of the sheet.\n"
            for name in ("above sheet (C-t a)", "below (C-t b)", "close   (C-t k) Close the sheet.", "dim degree of land (C-t d)", "east (C-t e)",
                         "find [word] (C-t f)", "grid   (C-t g) Show the grid.", "help (C-t ?)")),
        [("above", "Ctrl+T a"), ("below", "Ctrl+T b"), ("close", "Ctrl+T k"), ("dim", "Ctrl+T d"), ("east", "Ctrl+T e"), ("find", "Ctrl+T f"),
         ("grid", "Ctrl+T g"), ("help", "Ctrl+T ?")]),
    "a column for each of its keys": (
        "map.sample", "FirstSheet\t\t^\nPostponed\t\tO\t^O\nDown\t\t\tj\t^N\nPageUp\t\t\tb\t^B\t^U\nRedraw\t\t\t^L\nNextSheet\t\tn\nPrevSheet\t\tp\n",
        [("FirstSheet", "^"), ("Postponed", "Shift+O", "Ctrl+O"), ("Down", "j", "Ctrl+N"), ("PageUp", "b", "Ctrl+B", "Ctrl+U"), ("Redraw", "Ctrl+L"),
         ("NextSheet", "n"), ("PrevSheet", "p")]),
    "terminal chords with a comma between, one in brackets": (
        "desk_man.txt", "KEYS\n           M-j, M-\u27e8TAB\u27e9        sheet_next\n           M-k, M-S-\u27e8TAB\u27e9      sheet_prev\n           M-m                 sheet_main\n",
        [("sheet_next", "Alt+J", "Alt+Tab"), ("sheet_prev", "Alt+K", "Alt+Shift+Tab"), ("sheet_main", "Alt+M")]),
    "a name, its keys and what is said of it": (
        "a.txt", "Action             Shortcut        Description\nOpen sheet         Ctrl-O          Opens a sheet of the office.\n"
        "Save all           Ctrl-Shift-S    Saves all sheets that are\n                                   open.\nComplete name      Tab             Completes what was begun.\n",
        [("Open sheet", "Ctrl+O"), ("Save all", "Ctrl+Shift+S"), ("Complete name", "Tab")]),
    "the exact name beside a description": (
        "a.html", "<table><tr><th>Function</th><th>Default key</th><th>Description</th></tr><tr><td>half-down</td><td>]</td><td>go half a sheet down</td></tr>"
        "<tr><td>first-sheet</td><td>&lt;Home&gt;</td><td>go to the first sheet</td></tr><tr><td>redraw</td><td>^L</td><td>draw it anew</td></tr></table>",
        [("half-down", "]"), ("first-sheet", "Home"), ("redraw", "Ctrl+L")]),
    "records with a label before each value": (
        "a.html", "".join(f"<p><strong>Operation:</strong> <a href='#'>{name}</a><br><strong>Default key:</strong> {keys}<br></p><p>Something of it.</p>"
                          for name, keys in (("next-sheet", "n"), ("any-sheet", "^K"), ("open-all", "n/a"), ("open", "O"))),
        [("next-sheet", "n"), ("any-sheet", "Ctrl+K"), ("open-all",), ("open", "Shift+O")]),
    "a list of letters among which few are named": (
        "a.html", "<ul>" + "".join(f"<li><p><code>{keys}</code>: <code>{name}</code></p></li>" for keys, name in (
            ("$", "line-end"), ("&lt;Ctrl-Space&gt;", "drop"), ("&lt;Return&gt;", "take all"), ("G", "sheet-end"), ("gg", "sheet-start"), ("h", "left"), ("l", "right"))) + "</ul>",
        [("line-end", "$"), ("drop", "Ctrl+Space"), ("take all", "Enter"), ("sheet-end", "Shift+G"), ("sheet-start", "g g"), ("left", "h"), ("right", "l")]),
    "terms below a term, and Alt with both cases": (
        "a.asciidoc", "= Keys\n\n*<c-x>*::\n    complete, followed by:\n\n    *f*:::\n        a file\n\n    *L*:::\n        a line\n\n*<a-o>*::\n    add a sheet below\n\n"
        "*<a-O>*::\n    add a sheet above\n\n*x*::\n    take whole lines (with their\n    ends)\n",
        [("complete, followed by:", "Ctrl+X"), ("a file", "Ctrl+X f"), ("a line", "Ctrl+X Shift+L"), ("add a sheet below", "Alt+O"),
         ("add a sheet above", "Alt+Shift+O"), ("take whole lines (with their ends)", "x")]),
    "forms of Lisp with caps and a modifier by name": (
        "keys.scm", '; Sheets\n(global-set-key "E E" \'&edit-sheet)\n(global-set-key "E <Shift>S" \'&edit-slot)\n(global-set-key "<Control>S" \'&sheet-save)\n'
        '(global-set-key "U" \'&undo)\n',
        [("edit-sheet", "e e"), ("edit-slot", "e Shift+S"), ("sheet-save", "Ctrl+S"), ("undo", "u")]),
    "keys with the mouse among them, and a letter that is said to be a key": (
        "a.html", "<dl><dt><b>LMB</b> (left mouse button), mouse wheel down, <b>Page Down</b> key, <b>Cursor Right</b> key or <b>Spacebar</b></dt><dd>Next sheet</dd>"
        "<dt><b>F</b> key</dt><dd>Whole screen</dd><dt><b>Home</b> key / <b>End</b> key</dt><dd>First or last sheet</dd></dl>",
        [("Next sheet", "PageDown", "Right", "Space"), ("Whole screen", "f"), ("First or last sheet", "Home", "End")]),
    "keys with blanks between, a comma and a sign for comments among them": (
        "a_man.txt", "KEYS\n       . pgdn space\n              Go to the next sheet.\n\n       , pgup b\n              Go to the sheet before.\n\n       ^A     Go to the first cell.\n\n"
        "       #      Go to the last cell.\n\n       w      Scan forward.\n\n       g\n              Go on.  If  the  cell  is empty it goes in the\n              direction until the end.\n",
        [("Go to the next sheet.", ".", "PageDown", "Space"), ("Go to the sheet before.", ",", "PageUp", "b"), ("Go to the first cell.", "Ctrl+A"),
         ("Go to the last cell.", "#"), ("Scan forward.", "w"), ("Go on", "g")]),
}  # fmt: skip


@pytest.mark.parametrize("case", CASES)
def test_what_is_read_of_the_ways_in_which_people_write(case: str) -> None:
    name, text, wanted = CASES[case]
    found = choose(name, text.encode()).found
    assert [(row.command, *row.triggers) for row in for_this_system(found)] == wanted
    assert not [one for one in found.problems if one.line]


def test_the_keys_of_every_system_are_told() -> None:
    found = choose("a.txt", CASES["keys by system"][1].encode()).found
    assert [(row.triggers, row.system) for row in found.rows][:2] == [(("Super+S",), "mac"), (("Ctrl+S",), "windows")]


def test_what_a_column_of_its_own_says_of_a_command_is_its_note() -> None:
    for case in ("a name, its keys and what is said of it", "the exact name beside a description"):
        name, text, _ = CASES[case]
        assert [row.note for row in choose(name, text.encode()).found.rows][1] in ("Saves all sheets that are open.", "go to the first sheet")


OF_THREE = "Action,Windows,Linux,Mac\nSave sheet,Ctrl+S,Ctrl+S,Cmd+S\nLeave,Alt+F4,Ctrl+Q,Cmd+Q or Cmd+W\nPlot,F5,F5,F5\nStamp,,,Cmd+T\nHelp,F1,F1,a click\n"


@pytest.mark.parametrize(("own", "rows"), [
    ("linux", [("Save sheet", ("Ctrl+S",), {"mac": ("Super+S",)}),
               ("Leave", ("Ctrl+Q",), {"windows": ("Alt+F4",), "mac": ("Super+Q", "Super+W")}), ("Plot", ("F5",), {}),
               ("Stamp", (), {"mac": ("Super+T",)}), ("Help", ("F1",), {})]),
    ("mac", [("Save sheet", ("Super+S",), {"windows": ("Ctrl+S",), "linux": ("Ctrl+S",)}),
             ("Leave", ("Super+Q", "Super+W"), {"windows": ("Alt+F4",), "linux": ("Ctrl+Q",)}), ("Plot", ("F5",), {}), ("Stamp", ("Super+T",), {})]),
])  # fmt: skip
def test_a_page_of_several_systems_is_one_list(own: str, rows: list[tuple[str, tuple[str, ...], dict[str, tuple[str, ...]]]]) -> None:
    """The keys of the person's system are the rows' own; those of the others are kept where they are others."""
    found = choose("a.csv", OF_THREE.encode(), Options(system=own)).found
    assert [(row.command, row.triggers, dict(row.keys_of)) for row in for_this_system(found)][: len(rows)] == rows


@pytest.mark.parametrize(("heading", "systems"), [
    ("Windows / Linux keys", ["linux", "windows"]), ("Shortcut (macOS)", ["mac"]), ("OS X", ["mac"]), ("GNU/Linux", ["linux"]), ("PC", ["windows"]),
    ("Darwin", ["mac"]), ("Window", []), ("Machine", []), ("Keys", []), ("x11", ["linux"]),
])  # fmt: skip
def test_which_systems_a_heading_names(heading: str, systems: list[str]) -> None:
    assert systems_named(heading) == systems


def test_keys_of_another_system_that_cannot_be_read_are_a_remark() -> None:
    (row,) = [row for row in choose("a.csv", OF_THREE.encode()).found.rows if row.command == "Help"]
    assert row.remark == "mac: a click is not read" and row.sure >= 0.5


def test_a_row_with_a_macs_key_is_a_macs_where_the_command_has_another() -> None:
    found = choose("chart.conf", b"map ctrl+shift+c copy_sheet\nmap cmd+c copy_sheet\nmap ctrl+shift+v paste_sheet\nmap cmd+o open_sheet\n").found
    rows = {row.command: (row.triggers, dict(row.keys_of)) for row in for_this_system(found)}
    assert rows == {"copy_sheet": (("Ctrl+Shift+C",), {"mac": ("Super+C",)}), "paste_sheet": (("Ctrl+Shift+V",), {}), "open_sheet": (("Super+O",), {})}


def test_a_macs_column_beside_one_for_all_others_is_not_read_as_alternates() -> None:
    found = choose("a.csv", b"Function,Key (Standard),Key (macOS)\nLeave,Control + Q,Cmd + Q\nPlot,F5,F5\nOpen sheet,Control + O,Cmd + O\n").found
    rows = [(row.command, row.triggers, dict(row.keys_of)) for row in for_this_system(found)]
    assert rows[:2] == [("Leave", ("Ctrl+Q",), {"mac": ("Super+Q",)}), ("Plot", ("F5",), {})]


def test_rows_of_their_own_for_several_systems_are_brought_together() -> None:
    found = choose("a.txt", CASES["keys by system"][1].encode()).found
    first = for_this_system(found)[0]
    assert first.triggers == ("Ctrl+S",) and dict(first.keys_of) == {"mac": ("Super+S",)}


LINES = st.sampled_from([
    "Ctrl+O   Open sheet", "# Survey", "Some prose about the sheets of the office, which is long.", "bind c new-window", "  and goes on",
    "map F2 add-sounding", "- `Ctrl+B` - bold", "quit = q", "", "| F5 | Reload |", "Discard batch,", "F9", "class Sheet:", "    'open': 'Ctrl+P',",
    "Middle button   pan", "Shift+Nope   nothing", "^X^S  Save   ^X^C  Quit",
])  # fmt: skip


@settings(max_examples=150)
@given(st.lists(LINES, min_size=1, max_size=14), st.sampled_from(["text", "markdown", "config", "script"]))
def test_every_line_ends_in_one_list(lines: list[str], kind: str) -> None:
    """Or goes on with the row above it, further in than that; nothing is in two lists."""
    found = read(kind, "\n".join(lines).encode())
    if any(not problem.line for problem in found.problems):
        return  # the source as a whole was refused
    where: dict[int, set[str]] = {}
    for name in ("rows", "not_bindings", "problems", "headings"):
        for one in getattr(found, name):
            where.setdefault(one.line, set()).add(name)
    assert all(len(lists) == 1 or lists == {"rows", "not_bindings"} for lists in where.values()), where
    for number, line in enumerate(lines, start=1):
        if any(char.isalnum() for char in line) and number not in where:
            above = next(n for n in range(number - 1, 0, -1) if n in where)
            assert where[above] & {"rows", "problems"} and line.startswith(" "), (number, line)
