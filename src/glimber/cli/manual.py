"""Generate documents from the commands themselves: the manual page, shell completions, the command line's page in docs."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any, Final

from msgspec import Struct

from glimber import __version__

MAN: Final = "man/man1/glimber.1"
BASH: Final = "bash-completion/completions/glimber"
ZSH: Final = "zsh/site-functions/_glimber"
FISH: Final = "fish/vendor_completions.d/glimber.fish"


class CommandHelp(Struct, frozen=True):
    """One command: its words, how it is called, what it does, its options with what they do, and an example."""

    words: tuple[str, ...]
    usage: str
    does: str
    options: tuple[tuple[str, str], ...]
    example: str


def commands(root: object) -> list[CommandHelp]:
    """Return every command below the one that has them all, in the order of the help."""
    return list(_commands_below(root, ()))


def _commands_below(command: Any, words: tuple[str, ...]) -> Iterator[CommandHelp]:
    for name, one in command.commands.items():
        if hasattr(one, "commands"):
            yield from _commands_below(one, (*words, name))
            continue
        text = " ".join((one.help or "").split())
        does, _, example = text.partition("Example:")
        arguments: list[str] = []
        options: list[tuple[str, str]] = []
        for param in one.params:
            if param.param_type_name == "argument":
                arguments.append(param.metavar or param.name.upper())
            elif param.name != "help":
                value = "" if param.is_flag else f" {param.metavar or 'VALUE'}"
                options.append((", ".join(param.opts) + value, " ".join((param.help or "").split())))
        usage = " ".join(["glimber", *words, name, *(["[options]"] if options else []), *arguments])
        yield CommandHelp((*words, name), usage, does.strip(), tuple(options), example.strip())


def man_page(root: object) -> str:
    """Return the page for man(1). Source: man(7), "Conventions for manual pages"."""
    lines = [f'.TH GLIMBER 1 "" "glimber {__version__}" "User Commands"', ".SH NAME",
             r"glimber \- reference cards, timed recall and a verdict for every binding of a keyboard", ".SH SYNOPSIS",
             r".B glimber", "[FOLIO]", ".br", ".B glimber", r"\fICOMMAND\fR [options]", ".SH DESCRIPTION",
             "Alone it opens the window on the folio given, else on the last one, or on the demo the first time.",
             r"With \fB\-\-json\fR a command prints one JSON document. Exit status: 0 done; 1 done, but there is something to",
             "report; 2 the input was not usable.", ".SH COMMANDS"]  # fmt: skip
    for one in commands(root):
        lines += [".TP", rf"\fB{_roff(one.usage)}\fR", _roff(one.does)]
        for option, does in one.options:
            if option != "--json":
                lines += [".RS", ".TP", rf"\fB{_roff(option)}\fR", _roff(does) or " ", ".RE"]
        if one.example:
            lines += [".RS", ".PP", rf"Example: \fI{_roff(one.example)}\fR", ".RE"]
    lines += [".SH FILES", r"\fI~/.config/glimber/settings.json\fR", "what is the person's own and not the folio's", ".br",
              r"\fI~/.local/state/glimber/log/glimber.log\fR", "what went wrong and nobody expected"]  # fmt: skip
    return "\n".join(lines) + "\n"


def _roff(text: str) -> str:
    text = text.replace("\\", r"\e").replace("-", r"\-")
    return re.sub(r"^([.'])", r"\\&\1", text)


_HEAD: Final = """# The command line

Made from the commands themselves: `python -m glimber.cli.manualpage`.

`glimber` alone opens the window; `glimber FOLIO` opens it on a folio. With `--json` a command prints one JSON document and
nothing else. Exit status: 0 done; 1 done, but there is something to report; 2 the input was not usable.
"""


def page(root: object) -> str:
    """Return the command line as a page of the manual in docs."""
    lines = [*_HEAD.split("\n")]
    for one in commands(root):
        lines += [f"## {' '.join(one.words)}", "", f"`{one.usage}`", "", one.does, ""]
        if one.options:
            lines += ["| option | |", "|---|---|"]
            lines += [_row(option, does) for option, does in one.options]
            lines.append("")
        if one.example:
            lines += ["```", one.example, "```", ""]
    return "\n".join(lines)


def _row(option: str, does: str) -> str:
    bar = "\\|"
    return f"| `{option.replace('|', bar)}` | {does.replace('|', bar)} |"


def completions(root: object) -> dict[str, str]:
    """Completions for bash, zsh and fish, by their places in a folder for data."""
    tree: dict[str, list[str]] = {}
    for one in commands(root):
        options = [word for option, _ in one.options for word in option.split(", ") if word.startswith("--")]
        tree[" ".join(one.words)] = [word.split()[0] for word in options]
    first = sorted({words.split()[0] for words in tree})
    groups = {name: sorted(words.split()[1] for words in tree if words.startswith(f"{name} ")) for name in first}
    bash = _bash(tree, first, groups)
    zsh = f"#compdef glimber\nautoload -U +X bashcompinit && bashcompinit\n{bash}"
    return {BASH: bash, ZSH: zsh, FISH: _fish(root, tree, first, groups)}


def _bash(tree: dict[str, list[str]], first: list[str], groups: dict[str, list[str]]) -> str:
    cases = []
    for name in first:
        for words in groups[name] or [""]:
            whole = f"{name} {words}".strip()
            cases.append(f'    "{whole}"*) options="{" ".join([*tree[whole], "--help"])}" ;;')
    for name, inner in groups.items():
        if inner:
            cases.append(f'    "{name}"*) options="{" ".join(inner)}" ;;')
    return "\n".join([
        "_glimber() {", '  local word="${COMP_WORDS[COMP_CWORD]}" said="${COMP_WORDS[*]:1:COMP_CWORD-1}" options=""',
        "  if [ \"$COMP_CWORD\" -eq 1 ]; then", f'    options="{" ".join([*first, "--help", "--version"])}"', "  else",
        '  case "$said" in', *cases, "  esac", "  fi", "  COMPREPLY=($(compgen -W \"$options\" -- \"$word\"))",
        '  if [ "${#COMPREPLY[@]}" -eq 0 ] || [ "$COMP_CWORD" -gt 1 ] && [ "${word:0:1}" != "-" ]; then',
        '    COMPREPLY+=($(compgen -f -- "$word"))', "  fi", "}", "complete -o filenames -F _glimber glimber", "",
    ])  # fmt: skip


def _fish(root: object, tree: dict[str, list[str]], first: list[str], groups: dict[str, list[str]]) -> str:
    does = {" ".join(one.words): one.does.split(". ")[0].replace("'", "\\'") for one in commands(root)}
    lines = []
    for name in first:
        text = f" -d '{does[name]}'" if name in does else ""
        lines.append(f"complete -c glimber -n __fish_use_subcommand -a {name}{text}")
        for inner in groups[name]:
            lines.append(
                f"complete -c glimber -n '__fish_seen_subcommand_from {name}' -a {inner} -d '{does[f'{name} {inner}']}'"
            )
    for words, options in tree.items():
        condition = "; and ".join(f"__fish_seen_subcommand_from {word}" for word in words.split())
        lines += [f"complete -c glimber -n '{condition}' -l {option[2:]}" for option in options]
    return "\n".join(lines) + "\n"
