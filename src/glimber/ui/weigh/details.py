"""Under the verdict: where the hand went, clean hits over time, what it costs, and the places to go."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from glimber.core.model.board import Board
from glimber.core.model.describe import count_words, place_words, seconds_words
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import NotationError, Spot, Trigger, parse_trigger, strikes_of
from glimber.core.stats.daily import by_day
from glimber.core.stats.days import own_day
from glimber.ui.paint.board import BoardMarks, BoardOutline
from glimber.ui.paint.plain_text import Label
from glimber.ui.paint.style import theme
from glimber.ui.weigh.chart import DayChart, Point

if TYPE_CHECKING:
    from glimber.core.decide.candidates import Candidate
    from glimber.core.stats.ledger import Ledger, Weighed


_SHOWN = 6


class CaseDetails(QWidget):
    """Made when the first verdict is shown: the first frame has only the last summary."""

    def __init__(self) -> None:
        super().__init__()
        self.board = BoardOutline("Where the hand went", lambda: theme().panel)
        self.board.setFixedHeight(144)
        self.went = _head("Where the hand went")
        self.chart = DayChart(
            "Clean hits by day", lambda value: f"{100 * value:.0f} %", 1.0, "No tries at this place yet"
        )
        self.times = DayChart("Time of a clean hit by day", seconds_words, None, "No clean hit at this place yet")
        self.chart_head, self.times_head = _head("Clean hits"), _head("Time of a clean hit")
        self.figures = Label()
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
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        for widget in (self.went, self.board, self.chart_head, self.chart, _head("Costs"), self.figures, self.places_head,
                       self.places, self.times_head, self.times):  # fmt: skip
            layout.addWidget(widget)

    def show_row(self, ledger: Ledger, row: Weighed, candidates: Sequence[Candidate]) -> None:
        """Fill in everything for one binding."""
        self._show_board(ledger.folio, row)
        changes = [own_day(one.applied or one.at) for one in ledger.practice.changes
                   if one.binding == row.binding.id and one.to_trigger]  # fmt: skip
        days = by_day(ledger, row)
        self.chart.show_points([Point(one.day, one.mean, one.low, one.high) for one in days], changes)
        self.times.show_points([Point(one.day, one.time_ms) for one in days if one.time_ms is not None], changes)
        self.figures.setText(_figures(row, theme().quiet))
        self._show_places(ledger.folio, row.binding.id, candidates)

    def try_on(self, folio: Folio, row: Weighed, candidate: Candidate | None) -> None:
        """Show a place on the board as if the binding were there, without changing anything; None: where the hand went."""
        if candidate is None:
            self._show_board(folio, row)
            return
        shape, key = _shown_on(folio, candidate.to)
        _, now = _shown_on(folio, row.binding.trigger)
        struck = (now,) if now and type(candidate.to) is type(row.binding.trigger) else ()
        words = f"Tried on: {place_words(folio, candidate.to)}, from {place_words(folio, row.binding.trigger)}"
        self.board.show_board(shape, folio.legend, BoardMarks((key,) if key else (), theme().light, struck), words)
        self.went.setText(f"{words} · nothing is changed, T goes back")

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
        shape, key_lit = _shown_on(folio, wanted)
        lit = wanted.keys if isinstance(wanted, Spot) else (key_lit,) if key_lit else ()
        message = ", ".join(f"{key}: {count}" for key, count in counts.items()) or "no slips"
        self.board.show_board(
            shape, folio.legend, BoardMarks(lit, theme().lamp_at(max(0.4, row.grip)), counts=counts), message
        )
        rest = f" · {elsewhere} off this layer" if elsewhere else ""
        slips = count_words(row.slips.total, "slip")
        self.went.setText(f"Where the hand went · {slips}, {count_words(row.slips.blanks, 'blank')}{rest}")

    def _show_places(self, folio: Folio, own: str, found: Sequence[Candidate]) -> None:
        found = found[:_SHOWN]
        self.places_head.setVisible(bool(found))
        self.places.setVisible(bool(found))
        self.places.setRowCount(len(found))
        for place, one in enumerate(found):
            swap = ", swapping" if one.swap_with else ""
            day = f"even on day {one.gain.break_even_day}" if one.gain.break_even_day else "never even"
            better = f"{100 * one.gain.p_better:.0f} % better"
            kind = "" if one.move else ", rebound"
            moved = folio.command_of(folio.bindings[one.binding]) if one.binding in folio.bindings else None
            whose = f"{moved.short}: " if moved is not None and one.binding != own else ""
            texts = (f"{whose}{place_words(folio, one.to)}{swap}{kind}", f"{one.gain.per_week_s:.0f} s", better, day)
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


def _head(text: str) -> Label:
    label = Label(text)
    label.setProperty("role", "quiet")
    label.setContentsMargins(0, 4, 0, 0)
    label.setWordWrap(True)
    return label


def _shown_on(folio: Folio, trigger: Trigger) -> tuple[Board, str | None]:
    """The board a trigger is on and its last key."""
    if isinstance(trigger, Spot):
        return folio.boards[trigger.board], trigger.keys[0]
    strikes = strikes_of(trigger, folio.legend, folio.bundles) or ()
    return folio.keyboard, strikes[-1][1] if strikes else None


def _key_on(folio: Folio, wanted: object, struck: str) -> str | None:
    """Return the key of the wanted trigger's board that was struck, where the picture can show it."""
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
    """Return times, costs and slips, a line each; what is not known is marked so."""
    if row.weekly_s is None or row.recall_ms is None:
        return f'<span style="color:{quiet}">Not known yet: it has no tries at this place.</span>'
    recall = f"over {seconds_words(row.recall_ms)}" if row.over_deadline else seconds_words(row.recall_ms)
    times = f"recall {recall}, hand {seconds_words(row.motor_ms or 0)}, reach {seconds_words(row.reach_ms or 0)}"
    timed = f" (timed {count_words(row.slow_times, 'time')})" if row.slow_times else ""
    slow = "no slow way on record" if row.slow_s is None else f"slow way {row.slow_s:.1f} s a time{timed}"
    earned = "" if row.earned_s is None else f", earns {row.earned_s:.0f} s"
    costs = f"{row.weekly_s:.0f} s a week, {row.lost_s or 0:.0f} s of it lost{earned}; {slow}"
    kinds = ", ".join(f"{count} {kind}" for kind, count in row.slips.kinds.items())
    slips = f"slips: {kinds}" if kinds else "no slips"
    from_what = f"from {row.count} tries on {row.days} days, {row.cold} of them cold"
    return f'{times}<br>{costs}<br>{slips}<br><span style="color:{quiet}">{from_what}</span>'
