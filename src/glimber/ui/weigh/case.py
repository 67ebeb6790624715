"""The case: one binding's verdict with its sentence, where the hand went, its course, its costs and places to go."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QScrollArea,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from glimber.core.folio import Folio
from glimber.core.keys import NotationError, Spot, parse_trigger, strikes_of
from glimber.core.summary import Row
from glimber.core.tries import CHOICES, utc
from glimber.core.words import count_words, place_words, seconds_words
from glimber.ui.paintboard import BoardMarks, BoardOutline
from glimber.ui.style import theme
from glimber.ui.weigh.chart import CleanHits

if TYPE_CHECKING:
    from glimber.core.candidates import Candidate
    from glimber.core.measures import Ledger, Weighed
    from glimber.core.verdict import Verdict


class CaseView(QFrame):
    """Shows a verdict; ``take`` is told the choice and, for a move, the candidate chosen."""

    def __init__(self, take: Callable[[str, Candidate | None], None]) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._take = take
        self.verdict: Verdict | None = None
        self.title, self.subtitle, self.words = QLabel(), QLabel(), QLabel()
        self.title.setProperty("role", "heading")
        self.subtitle.setProperty("role", "quiet")
        self.words.setProperty("role", "large")
        self.words.setTextFormat(Qt.TextFormat.RichText)
        for label in (self.title, self.subtitle, self.words):
            label.setWordWrap(True)
        self.buttons: dict[str, QPushButton] = {}
        row = QHBoxLayout()
        row.setSpacing(6)
        for number, choice in enumerate(CHOICES, start=1):
            button = QPushButton(f"{number}  {choice}")
            button.setProperty("narrow", True)
            button.clicked.connect(lambda _=False, choice=choice: self.take(choice))
            self.buttons[choice] = button
            row.addWidget(button)
        row.addStretch(1)
        self.board = BoardOutline("Where the hand went")
        self.board.setFixedHeight(144)
        self.went = _head("Where the hand went")
        self.chart = CleanHits()
        self.chart_head = _head("Clean hits")
        self.figures = QLabel()
        self.figures.setWordWrap(True)
        self.figures.setTextFormat(Qt.TextFormat.RichText)
        self.places_head = _head("Places to go")
        self.places = QTableWidget(0, 4)
        self.places.setAccessibleName("Places to go")
        self.places.horizontalHeader().hide()
        self.places.verticalHeader().hide()
        self.places.setShowGrid(False)
        self.places.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.places.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.places.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.places.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.places.verticalHeader().setMinimumSectionSize(24)
        self.places.verticalHeader().setDefaultSectionSize(24)
        self.places.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        inner = QWidget()
        layout = QVBoxLayout(inner)
        layout.setContentsMargins(20, 14, 20, 12)
        layout.setSpacing(6)
        for widget in (self.title, self.subtitle, self.words):
            layout.addWidget(widget)
        layout.addLayout(row)
        self._details = [self.went, self.board, self.chart_head, self.chart, _head("Costs"), self.figures, self.places_head,
                         self.places]  # fmt: skip
        for widget in self._details:
            layout.addWidget(widget)
        layout.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(inner)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(scroll)
        self._inner = inner
        inner.hide()

    def take(self, choice: str) -> None:
        """The person decides; a move goes to the place chosen in the table."""
        if self.verdict is not None and self.buttons[choice].isEnabled():
            self._take(choice, self.candidate() if choice == "move" else None)

    def candidates(self) -> list[Candidate]:
        if self.verdict is None:
            return []
        best = [self.verdict.best] if self.verdict.best else []
        return [*best, *self.verdict.others]

    def candidate(self) -> Candidate | None:
        """The place chosen in the table; the best without a choice."""
        found = self.candidates()
        row = self.places.currentRow()
        return found[row] if 0 <= row < len(found) else (found[0] if found else None)

    def show_row(self, row: Row) -> None:
        """What the last summary says of a binding, until everything has been weighed anew."""
        self.verdict = None
        self._inner.setVisible(True)
        self.title.setText(row.name)
        self.subtitle.setText(row.place)
        self._say(row.choice, f"{row.choice.capitalize()}.", row.words)
        for button in self.buttons.values():
            button.setEnabled(False)
        for widget in self._details:
            widget.hide()

    def _say(self, choice: str, headline: str, words: str) -> None:
        self.words.setText(f'<b style="color:{_ink(choice)}">{headline}</b> {words}')
        for name, button in self.buttons.items():
            button.setProperty("role", "chosen" if name == choice else "")
            button.style().unpolish(button)
            button.style().polish(button)

    def show_verdict(self, ledger: Ledger, verdict: Verdict | None) -> None:
        self.verdict = verdict
        self._inner.setVisible(verdict is not None)
        if verdict is None:
            return
        from glimber.core.history import by_day

        row, folio, t = verdict.row, ledger.folio, theme()
        self.title.setText(row.command.name)
        uses = (
            f"{row.command.uses_per_day:g} a day"
            if row.command.uses_per_day is not None
            else "uses a day not set: a guess"
        )
        parts = [place_words(folio, row.binding.trigger), uses, row.binding.reason or ""]
        self.subtitle.setText(" · ".join(part for part in parts if part))
        self._say(verdict.choice, _headline(folio, verdict), verdict.words)
        for widget in self._details:
            widget.show()
        for button in self.buttons.values():
            button.setEnabled(True)
        self.buttons["move"].setEnabled(bool(self.candidates()))
        self.buttons["retire"].setEnabled(not row.binding.pinned)
        self._show_board(folio, row)
        changes = [utc(one.applied or one.at).date() for one in ledger.practice.changes
                   if one.binding == row.binding.id and one.to_trigger]  # fmt: skip
        self.chart.show_days(by_day(row, ledger.prior), changes)
        self.figures.setText(_figures(row, t.quiet))
        self._show_places(folio)

    def _show_board(self, folio: Folio, row: Weighed) -> None:
        wanted = row.binding.trigger
        counts: dict[str, int] = {}
        elsewhere = 0
        for struck, count in row.slips.struck.items():
            key = _key_on(folio, wanted, struck)
            if key is None:
                elsewhere += count
            else:
                counts[key] = counts.get(key, 0) + count
        if isinstance(wanted, Spot):
            shape, lit = folio.boards[wanted.board], wanted.keys
        else:
            strikes = strikes_of(wanted, folio.legend, folio.bundles) or ()
            shape, lit = folio.keyboard, (strikes[-1][1],) if strikes else ()
        said = ", ".join(f"{key}: {count}" for key, count in counts.items()) or "no slips"
        self.board.show_board(
            shape, folio.legend, BoardMarks(lit, theme().lamp_at(max(0.4, row.grip)), counts=counts), said
        )
        rest = f" · {elsewhere} off this layer" if elsewhere else ""
        slips = count_words(row.slips.total, "slip")
        self.went.setText(f"Where the hand went · {slips}, {count_words(row.slips.blanks, 'blank')}{rest}")

    def _show_places(self, folio: Folio) -> None:
        found = self.candidates()
        self.places_head.setVisible(bool(found))
        self.places.setVisible(bool(found))
        self.places.setRowCount(len(found))
        for place, one in enumerate(found):
            swap = ", swapping" if one.swap_with else ""
            day = f"even on day {one.gain.break_even_day}" if one.gain.break_even_day else "never even"
            better = f"{100 * one.gain.p_better:.0f} % better"
            texts = (f"{place_words(folio, one.to)}{swap}", f"{one.gain.per_week_s:.0f} s", better, day)
            for column, text in enumerate(texts):
                item = QTableWidgetItem(text)
                if column in (1, 2):
                    item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self.places.setItem(place, column, item)
        for column in (1, 2, 3):
            self.places.resizeColumnToContents(column)
        self.places.setFixedHeight(24 * len(found) + 4)
        if found:
            self.places.selectRow(0)


def _head(text: str) -> QLabel:
    label = QLabel(text)
    label.setProperty("role", "quiet")
    label.setContentsMargins(0, 4, 0, 0)
    label.setWordWrap(True)
    return label


def _ink(choice: str) -> str:
    t = theme()
    return {"keep": t.settled, "move": t.light, "rebind": t.slip}.get(choice, t.quiet)


def _headline(folio: Folio, verdict: Verdict) -> str:
    if verdict.choice == "move" and verdict.best is not None:
        return f"Move to {place_words(folio, verdict.best.to)}."
    return {"keep": "Keep it.", "rebind": "Rebind it.", "practise": "Practise on.", "retire": "Retire it."}[
        verdict.choice
    ]


def _key_on(folio: Folio, wanted: object, struck: str) -> str | None:
    """The key of the wanted trigger's board that was struck, where the picture can show it."""
    try:
        trigger = parse_trigger(struck, folio.bundles)
    except NotationError:
        return None
    if isinstance(wanted, Spot):
        same = isinstance(trigger, Spot) and (trigger.board, trigger.layer) == (wanted.board, wanted.layer)
        return trigger.keys[0] if same and isinstance(trigger, Spot) else None
    if isinstance(trigger, Spot):
        return None
    strikes = strikes_of(trigger, folio.legend, folio.bundles) or ()
    return strikes[-1][1] if strikes and strikes[-1][1] in folio.keyboard.by_id else None


def _figures(row: Weighed, quiet: str) -> str:
    """Times and costs in two lines; what is not known is said to be so."""
    if row.weekly_s is None or row.recall_ms is None:
        return f'<span style="color:{quiet}">Not known yet: it has no tries at this place.</span>'
    recall = f"over {seconds_words(row.recall_ms)}" if row.over_deadline else seconds_words(row.recall_ms)
    times = f"recall {recall}, hand {seconds_words(row.motor_ms or 0)}, reach {seconds_words(row.reach_ms or 0)}"
    slow = "no slow way on record" if row.slow_s is None else f"slow way {row.slow_s:.1f} s a time"
    earned = "" if row.earned_s is None else f", earns {row.earned_s:.0f} s"
    costs = f"{row.weekly_s:.0f} s a week, {row.lost_s or 0:.0f} s of it lost{earned}; {slow}"
    from_what = f"from {len(row.tries)} tries on {row.days} days, {row.cold} of them cold"
    return f'{times}<br>{costs}<br><span style="color:{quiet}">{from_what}</span>'
