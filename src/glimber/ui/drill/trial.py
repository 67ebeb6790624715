"""Sorting by trying: each name is asked for once, three seconds each, without being judged; what is struck right is known."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QKeyEvent

from glimber.core.decide.learning import ToSort
from glimber.core.engine.events import Event
from glimber.core.model.folio import Binding, Folio
from glimber.core.practice.answer import Answer, CannotAnswer, Question
from glimber.core.practice.judge import Judge, listener_for
from glimber.ui.capture.keystrokes import KeyReader, monotonic_ms

ANSWER_MS: Final = 3000
RESULT_MS: Final = 350
"""The time a name stays after it was answered."""


class Trial(QObject):
    """One pass over commands. ``hit`` has each that was struck right; ``ended`` comes after the last, or when it is stopped."""

    changed = Signal()
    hit = Signal(object)
    ended = Signal()

    def __init__(self, folio: Folio, commands: Sequence[ToSort], parent: QObject) -> None:
        super().__init__(parent)
        self._folio = folio
        self.waiting = [one for one in commands if self._judge_for(one, 0.0) is not None]
        self.front: ToSort | None = None
        self.was_right: bool | None = None
        """True if the name in front was struck right; None while it is asked."""
        self._judge: Judge | None = None
        self.reader = KeyReader(self._take, self)
        self._timer, self._next = QTimer(self), QTimer(self)
        for timer, run in ((self._timer, self._too_late), (self._next, self.go_on)):
            timer.setSingleShot(True)
            timer.timeout.connect(run)

    def go_on(self) -> None:
        """Ask for the next name."""
        if not self.waiting:
            self.stop()
            return
        self.front, self.was_right = self.waiting.pop(0), None
        self._judge = self._judge_for(self.front, monotonic_ms())
        self._timer.start(ANSWER_MS)
        self.changed.emit()

    def key(self, event: QKeyEvent) -> None:
        """Take a key; what comes between two names is part of neither."""
        self.reader.read(event)

    def stop(self) -> None:
        """End the pass; what was struck right so far stays known."""
        self._timer.stop()
        self._next.stop()
        self.front = self._judge = None
        self.ended.emit()

    def _judge_for(self, one: ToSort, since: float) -> Judge | None:
        """Return what judges a command's own keys; None where this keyboard cannot show them, or where they have Esc."""
        for binding in self._folio.bindings_of.get(one.command.ref, ()):
            if _has_escape(binding):
                continue
            question = Question(self._folio, binding, deadline_ms=ANSWER_MS)
            try:
                return Judge(question, listener_for(question), since)
            except CannotAnswer:
                continue
        return None

    def _take(self, event: Event, late_ms: float) -> None:
        if self._judge is not None:
            self._answered(self._judge.feed(event))

    def _too_late(self) -> None:
        if self._judge is not None:
            self._answered(self._judge.settle())

    def _answered(self, answer: Answer | None) -> None:
        if answer is None or self.front is None:
            return
        self._timer.stop()
        self._judge, self.was_right = None, answer.outcome == "hit"
        if self.was_right:
            self.hit.emit(self.front)
        self.changed.emit()
        self._next.start(RESULT_MS)


def _has_escape(binding: Binding) -> bool:
    """Esc stops the pass, so that it cannot be an answer."""
    return str(binding.trigger).split("+")[-1] in ("Esc", "Escape")
