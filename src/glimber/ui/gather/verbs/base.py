"""Helpers that make the actions of the Gather room."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QWidget

from glimber.ui.session.actions import Action


def act(
    id: str,
    name: str,
    keys: str,
    run: Callable[[], object],
    brief: str = "",
    shown: str = "",
    when: Callable[[], bool] = lambda: True,
    scope: QWidget | None = None,
) -> Action:
    """Return an action of the Gather room; without ``keys`` it is only found."""

    def do() -> None:
        run()

    return Action(f"gather-{id}", name, (keys,) if keys else (), do, "gather", brief, shown, when, scope)
