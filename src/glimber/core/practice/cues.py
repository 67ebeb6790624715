"""Cues shown by a prompt: the command's name, its situation in the person's own words, its icon or picture."""

from __future__ import annotations

from typing import Final, Literal

from msgspec import Struct

from glimber.core.model.folio import Binding, Command

CueWish = Literal["name", "situation", "picture", "mixed"]
CUES: Final[tuple[CueWish, ...]] = ("name", "situation", "picture", "mixed")


class Cue(Struct, frozen=True):
    """``text``: what is read, or for a picture the name of an icon or the path of a picture within the folio. ``place``: the
    key itself is lit, and what it does is asked for."""

    kind: Literal["name", "situation", "icon", "picture", "place"]
    text: str


def cue_of(command: Command, binding: Binding, wish: CueWish, nth: int) -> Cue:
    """Return the cue that is wished for, as far as the command has it; otherwise its name.

    Of several situations another one comes each time: ``nth`` counts the prompts of the round. What is no more than a word
    is another name, and no situation, as long as there is one of several words. ``mixed`` goes round what the command has.
    """
    if wish == "mixed":
        has: list[CueWish] = ["name"]
        if command.words:
            has.append("situation")
        if binding.picture or command.picture or binding.icon or command.icon:
            has.append("picture")
        wish = has[nth % len(has)]
    if wish == "situation" and command.words:
        situations = [words for words in command.words if " " in words] or list(command.words)
        return Cue("situation", situations[nth % len(situations)])
    if wish == "picture":
        picture, icon = binding.picture or command.picture, binding.icon or command.icon
        if picture is not None:
            return Cue("picture", picture)
        if icon is not None:
            return Cue("icon", icon)
    return Cue("name", command.name)
