"""The case: one binding's verdict with its sentence, where the hand went, its course, its costs and places to go."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QPushButton, QScrollArea, QVBoxLayout, QWidget

from glimber.core.decide.choices import CHOICES
from glimber.core.decide.summary import Row
from glimber.core.model.describe import place_words
from glimber.core.model.folio import Folio
from glimber.core.practice.slip_kinds import CAUSE_WORDS
from glimber.ui.paint.plain_text import Label, escaped
from glimber.ui.paint.style import theme
from glimber.ui.session.lazy import Lazy
from glimber.ui.widgets.flow import Flow

if TYPE_CHECKING:
    from glimber.core.decide.candidates import Candidate
    from glimber.core.decide.verdict import Verdict
    from glimber.core.stats.ledger import Ledger, Weighed
    from glimber.ui.weigh.details import CaseDetails


MOST_PLACES = 6

class CaseView(QFrame):
    """Shows a verdict; ``take`` is called with the choice and, for a move, the chosen candidate."""

    def __init__(self, take: Callable[[str, Candidate | None], None], parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        self._take = take
        self.details = Lazy(self._make_details)
        self.verdict: Verdict | None = None
        self.pair: Verdict | None = None
        self.trying = False
        self.cause = Label()
        self.cause.setProperty("role", "quiet")
        self.cause.setWordWrap(True)
        self.title, self.subtitle, self.known, self.words, self.brings = (Label() for _ in range(5))
        self.title.setProperty("role", "heading")
        self.subtitle.setProperty("role", "quiet")
        self.words.setProperty("role", "large")
        self.words.setTextFormat(Qt.TextFormat.RichText)
        for label in (self.title, self.subtitle, self.known, self.words, self.brings):
            label.setWordWrap(True)
        self.buttons: dict[str, QPushButton] = {}
        row = Flow(6)
        for number, choice in enumerate(CHOICES, start=1):
            button = QPushButton(f"{number}  {choice}")
            button.setProperty("narrow", True)
            button.clicked.connect(partial(self._clicked, choice))
            self.buttons[choice] = button
            row.addWidget(button)
        inner = QWidget()
        layout = QVBoxLayout(inner)
        layout.setContentsMargins(20, 14, 20, 12)
        layout.setSpacing(6)
        for label in (self.title, self.subtitle, self.known, self.words, self.brings, self.cause):
            layout.addWidget(label)
        layout.addLayout(row)
        layout.addStretch(1)
        self._column = layout
        scroll, ground = QScrollArea(), QWidget()
        scroll.setViewport(ground)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(inner)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        for widget in (ground, inner):
            widget.setAutoFillBackground(False)  # the panel is its ground
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(scroll)
        self._inner = inner
        inner.hide()

    def _make_details(self) -> CaseDetails:
        """Return everything under the verdict."""
        from glimber.ui.weigh.details import CaseDetails

        made = CaseDetails()
        self._column.insertWidget(self._column.count() - 1, made)
        return made

    def _clicked(self, choice: str, checked: bool = False) -> None:
        self.take(choice)

    def take(self, choice: str) -> None:
        """The person decides; a move goes to the place chosen in the table."""
        if self.verdict is not None and self.buttons[choice].isEnabled():
            self._take(choice, self.candidate(choice) if choice in ("move", "rebind") else None)

    def candidates(self) -> list[Candidate]:
        """Return the places to go, the best first; of two that are taken for each other those of both."""
        if self.verdict is None:
            return []
        both = [self.verdict, *([self.pair] if self.pair is not None else [])]
        return [one for verdict in both for one in (*([verdict.best] if verdict.best else []), *verdict.others)][
            :MOST_PLACES
        ]

    def candidate(self, choice: str | None = None) -> Candidate | None:
        """Return the place chosen in the table, where it is of the kind asked for; else the best of that kind. None where there
        is none."""
        found = self.candidates()
        row = self.details().places.currentRow()
        front = found[row] if 0 <= row < len(found) else None
        fitting = [one for one in found if choice is None or one.move == (choice == "move")]
        return front if front in fitting else fitting[0] if fitting else None

    def show_row(self, row: Row) -> None:
        """Show the last summary of a binding until everything has been weighed again."""
        self.verdict = None
        self._inner.setVisible(True)
        self.title.setText(row.name)
        self.subtitle.setText(row.place)
        self._say(row.choice, f"{row.choice.capitalize()}.", row.words, "")
        self._light("")  # nothing can be taken yet
        self.cause.hide()
        for button in self.buttons.values():
            button.setEnabled(False)
        if self.details.made is not None:
            self.details.made.hide()

    def _say(self, choice: str, headline: str, known: str, brings: str) -> None:
        """Show in a line each: what is known, what to do, what that brings and how sure it is."""
        self.known.setText(known)
        self.words.setText(f'<b style="color:{_ink(choice)}">{escaped(headline)}</b>')
        self.brings.setText(brings)
        self.brings.setVisible(bool(brings))

    def _light(self, choice: str) -> None:
        """Show which button does what the verdict says."""
        for name, button in self.buttons.items():
            role = "chosen" if name == choice else ""
            if (button.property("role") or "") != role:
                button.setProperty("role", role)
                button.style().unpolish(button)
                button.style().polish(button)

    def show_verdict(self, ledger: Ledger, verdict: Verdict | None, pair: Verdict | None = None) -> None:
        """Show a case; ``pair``: that of the binding that is taken for it."""
        self.verdict, self.pair = verdict, pair
        self._inner.setVisible(verdict is not None)
        if verdict is None:
            return
        row, folio = verdict.row, ledger.folio
        self.title.setText(row.command.name)
        uses = _uses(row)
        parts = [place_words(folio, row.binding.trigger), uses, row.binding.reason or ""]
        self.subtitle.setText(" · ".join(part for part in parts if part))
        self._say(verdict.choice, _headline(folio, verdict), verdict.known, _brings(verdict))
        self._light(verdict.choice)
        for button in self.buttons.values():
            button.setEnabled(True)
        self.buttons["move"].setEnabled(self.candidate("move") is not None)
        self.cause.setText(_cause_words(row) if pair is None else _pair_words(ledger, row, pair.row))
        self.cause.setVisible(bool(row.count))
        self.buttons["retire"].setEnabled(not row.binding.pinned)
        self.details().show_row(ledger, row, self.candidates())
        self.details().show()
        self.trying = False

    def try_on(self, ledger: Ledger) -> None:
        """The place in front of the table on the board, as a preview; again: where the hand went."""
        if self.verdict is not None and self.candidates():
            self.trying = not self.trying
            self.details().try_on(ledger.folio, self.verdict.row, self.candidate() if self.trying else None)


def _uses(row: Weighed) -> str:
    """Return uses a day: as they are set, as they were counted, or that they are guessed."""
    from glimber.core.practice.tally import uses_words

    counted = f"at work {uses_words(row.at_work)}" if row.at_work is not None and row.at_work.days else ""
    if row.command.uses_per_day is not None:
        return f"{row.command.uses_per_day:g} a day" + (f", {counted}" if counted else "")
    if row.at_work is not None and row.at_work.enough:
        return counted
    return "uses a day not set: a guess" + (f"; {counted}" if counted else "")


def _pair_words(ledger: Ledger, row: Weighed, other: Weighed) -> str:
    """Return two that are struck for each other, as one case."""
    mine, theirs = row.slips.would_do.get(other.command.ref, 0), other.slips.would_do.get(row.command.ref, 0)
    there = place_words(ledger.folio, other.binding.trigger)
    return f"One case with {other.command.name} ({there}): {mine} times taken for it, {theirs} the other way · C causes"


def _cause_words(row: Weighed) -> str:
    """Return the likeliest cause with its chance; the others are one key away."""
    cause, chance = max(row.causes.items(), key=lambda one: one[1])
    if cause == "none":
        return f"Struck well as it is, {100 * chance:.0f} % · C causes"
    fades = cause in ("knowing", "layer", "old habit", "unfinished") or (cause == "place" and not row.place_beside)
    lasts = f", {100 * row.lasting:.0f} % that it lasts" if fades else ""  # a slip of the hand stays while the key does
    return f"{CAUSE_WORDS[cause].in_case.capitalize()}, {100 * chance:.0f} %{lasts} · C causes"


def _ink(choice: str) -> str:
    t = theme()
    return {"keep": t.settled, "move": t.light, "rebind": t.slip}.get(choice, t.quiet)


def _brings(verdict: Verdict) -> str:
    """Return what a verdict brings, and how sure that is."""
    if verdict.best is None:
        return verdict.brings
    return f"{verdict.brings} Better than staying: {100 * verdict.best.gain.p_better:.0f} %."


def _headline(folio: Folio, verdict: Verdict) -> str:
    if verdict.choice in ("move", "rebind") and verdict.best is not None:
        return f"{verdict.choice.capitalize()} to {place_words(folio, verdict.best.to)}."
    return {"keep": "Keep it.", "rebind": "Rebind it.", "practise": "Practise on.", "retire": "Retire it."}[
        verdict.choice
    ]
