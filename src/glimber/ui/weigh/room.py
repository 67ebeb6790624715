"""The Weigh room: what settles above, the ledger at the left, the case at the right."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from glimber.core.decide.choices import CHOICES, PAIR_ANSWERS
from glimber.core.decide.row_order import ORDERS, kinds_of, shown
from glimber.store.faults import StoreError
from glimber.ui.paint.plain_text import Label
from glimber.ui.session.actions import Action
from glimber.ui.session.host import Choice, Host
from glimber.ui.session.jobs import Work
from glimber.ui.session.lazy import Lazy
from glimber.ui.session.room import Room
from glimber.ui.session.session import Session
from glimber.ui.weigh.case import CaseView
from glimber.ui.weigh.ledger import Ledger, LedgerHead
from glimber.ui.weigh.verbs import WeighVerbs

if TYPE_CHECKING:
    from glimber.core.decide.rearrange import Plan, Wish
    from glimber.core.decide.settling import Settling
    from glimber.core.stats.ledger import Ledger as Weighed
    from glimber.ui.weigh.field import Field
    from glimber.ui.weigh.inplace import InPlace
    from glimber.ui.weigh.rearrange import Rearrange
    from glimber.ui.weigh.reports import Reports
    from glimber.ui.weigh.settle import SettlingStrip

_REPLAN = "rearranging"


class WeighRoom(Room):
    """Ledger and case. Keys 1 to 5 accept a verdict."""

    id = "weigh"

    def __init__(self, session: Session, host: Host, parent: QWidget) -> None:
        super().__init__(session, host, parent)
        self.order, self.words = "cost", ""
        self.ledger, self.head = Ledger(), LedgerHead()
        self.ledger.chosen.connect(lambda _: self._show_case())
        self.empty, self.only = Label(), Label()
        self.empty.setProperty("role", "large")
        self.empty.setWordWrap(True)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.only.setProperty("role", "quiet")
        self.only.hide()
        self.verbs = WeighVerbs(session, host, lambda: self.case.verdict, self.choose)
        self.case = CaseView(self.verbs.take, self)
        self.field, self.settling, self.rearranging = (
            Lazy(self._make_field),
            Lazy(self._make_settling),
            Lazy(self._make_rearranging),
        )
        self.reports, self.in_place = Lazy(self._make_reports), Lazy(self._make_in_place)
        self._settled: tuple[Weighed, list[Settling]] | None = None
        self.left = QVBoxLayout()
        self.left.addWidget(self.empty)
        self.left.setSpacing(0)
        self.left.addWidget(self.head)
        self.left.addWidget(self.only)
        self.stack = QStackedWidget(self)
        self.stack.addWidget(self.ledger)
        self.left.addWidget(self.stack, 1)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 14, 14, 14)
        layout.setSpacing(16)
        layout.addLayout(self.left, 8)
        layout.addWidget(self.case, 5)
        self.refresh()

    def number(self) -> int | None:
        return self.session.summary.open_verdicts if self.session.summary is not None else None

    def panes(self) -> list[QWidget]:
        if self.session.ledger is None:
            return [self.front()]
        details = self.case.details()
        return [self.front(), details.chart, details.places, details.times]

    def actions_here(self) -> list[Action]:
        def act(
            id: str,
            name: str,
            key: str,
            run: Callable[[], None],
            brief: str = "",
            when: Callable[[], bool] = lambda: True,
            brief_keys: str = "",
        ) -> Action:
            shown_keys = brief_keys or key.upper()
            return Action(f"weigh-{id}", name, (key,), run, self.id, brief, shown_keys if brief else "", when)

        def has_pair() -> bool:
            return self.case.verdict is not None and self.case.verdict.pair is not None

        def known() -> bool:
            return self.case.verdict is not None

        def settles() -> bool:
            return self.settling.made is not None and self.settling().current is not None

        verdicts = [act(choice, f"Take the verdict: {choice}", str(number), partial(self.case.take, choice),
                        "accept a verdict" if number == 1 else "", brief_keys="1–5")
                    for number, choice in enumerate(CHOICES, start=1)]  # fmt: skip
        verbs = self.verbs
        return [
            act("next", "Next binding", "n", lambda: self.walk(1), "next", brief_keys="↑ ↓"),
            act("before", "Binding before", "p", lambda: self.walk(-1)),
            *verdicts,
            act(
                "press",
                "Press another key for it",
                "k",
                lambda: verbs.press_it(self.ledger.current_id()),
                "press another key",
            ),
            act("try", "Try the place on the board, without changing anything", "t", self.try_on, "try it", known),
            act("causes", "Causes: each with its probability", "c", verbs.causes, "causes", known),
            act("from", "Tries behind the figures", "f", verbs.from_what, when=known),
            act(
                "pair-keys",
                f"Of a pair: {PAIR_ANSWERS['pair-keys'].lower()}",
                "6",
                partial(verbs.answer_pair, "pair-keys"),
                when=has_pair,
            ),
            act(
                "pair-commands",
                f"Of a pair: {PAIR_ANSWERS['pair-commands']}",
                "7",
                partial(verbs.answer_pair, "pair-commands"),
                when=has_pair,
            ),
            act("aside", "Set the verdict aside until a day", "b", verbs.set_aside, when=known),
            act("drill", "Drill this binding", "d", self.drill_this, "drill it"),
            act("order", "Another order of the ledger", "o", self.ask_order),
            act("only", "Show only some: a program, layer, group, verdict or reason", "l", self.ask_only, "only"),
            act("field", "The ledger as a field of lamps, or as strips", "v", self.other_view, "field"),
            act("rearrange", "Rearrange its layer with few changes", "r", self.rearrange, "rearrange"),
            act("history", "All changes with their reasons; undo one", "h", verbs.history),
            act("sheet", "The change sheet: what is still to be set", "s", verbs.sheet, "change sheet"),
            act("in-place", "Set what waits where it belongs: the difference first", "w", self.set_it, "set it"),
            act("put-back", "Undo what was set last", "Shift+W", lambda: self.in_place().put_back()),
            act("sheet-file", "Write the change sheet to a file", "Shift+S", self.ask_sheet_file),
            act("settled", "Confirm the change in front", "a", self.confirm, when=settles),
            act("back", "Go back from the change in front", "z", self.go_back, when=settles),
            act("settling-next", "The next change that settles", "g", lambda: self.settling().step(), when=settles),
            act("compare", "Compare with those chosen before", "x", lambda: self.reports().compare(), when=known),
            act("report", "How it goes over time", "y", lambda: self.reports().show(), "over time"),
            act("report-file", "Write the progress report as a page or as figures", "Shift+Y", self.ask_report_file),
        ]

    def front(self) -> QWidget:
        """Return the strips, or the field of lamps."""
        return (
            self.field() if self.field.made is not None and self.stack.currentWidget() is self.field() else self.ledger
        )

    def enter(self) -> None:
        self.front().setFocus()

    def walk(self, by: int) -> None:
        self.ledger.go_to(self.ledger.current + by)

    def choose(self, binding: str) -> None:
        """Bring a binding to the front; what hides it is no longer asked for."""
        if self.words and all(row.id != binding for row in self.ledger.rows):
            self.show_only("")
        self.ledger.choose(binding)

    def refresh(self) -> None:
        summary = self.session.summary
        rows = summary.rows if summary is not None else ()
        self.empty.setVisible(not rows)
        for part in (self.stack, self.case):
            part.setVisible(bool(rows))
        self.head.setVisible(bool(rows) and self.front() is self.ledger)
        if not rows:
            nothing = not self.session.folio.drillable(self.session.computer)
            self.empty.setText(
                "Nothing to weigh yet. Ctrl+1 brings the shortcuts to weigh." if nothing else "Weighing…"
            )  # fmt: skip
            return
        self._show_rows()
        self._show_case()

    def _show_rows(self) -> None:
        summary = self.session.summary
        whole = summary.rows if summary is not None else ()
        rows = shown(whole, self.order, self.words)
        self.ledger.show_rows(rows)
        parts = [f"only “{self.words}”, {len(rows)} of {len(whole)}"] if self.words else []
        parts += [f"by {self.order}"] if self.order != "cost" else []
        self.only.setText(" · ".join(parts))
        self.only.setVisible(bool(parts))
        if self.field.made is not None:
            self.field().show_rows(rows, self.ledger.current_id())

    def _show_case(self) -> None:
        id, ledger = self.ledger.current_id(), self.session.ledger
        self._show_settling()
        if self.field.made is not None:
            self.field().show_rows(self.ledger.rows, id)
        if ledger is not None and id in self.session.verdicts:
            verdict = self.session.verdicts[id]
            self.case.show_verdict(ledger, verdict, self.session.verdicts.get(verdict.pair or ""))
        elif self.ledger.rows:
            self.case.show_row(self.ledger.rows[self.ledger.current])

    # The ledger's other faces

    def ask_order(self) -> None:
        """By what the ledger is sorted."""

        def by(order: object) -> None:
            self.order = str(order)
            self._show_rows()

        self.host.choose("Sorted by", by, [Choice(order, value=order) for order in ORDERS])

    def ask_only(self) -> None:
        """Ask which rows to show."""
        rows = self.session.summary.rows if self.session.summary is not None else ()
        choices = [Choice(text, what, value=text) for text, what in kinds_of(rows)]
        everything = [Choice("everything", "", value="")] if self.words else []
        self.host.choose("Show only", lambda words: self.show_only(str(words)), [*everything, *choices], free=True,
                         hint="or words that are found in name, place, program, layer, group, verdict or reason")  # fmt: skip

    def show_only(self, words: str) -> None:
        """Show the rows in which all of the words are found."""
        self.words = words.strip()
        self._show_rows()
        self._show_case()
        if self.words and not self.ledger.rows:
            self.session.notified.emit(f"Nothing here has “{self.words}”; L and everything shows all.")

    def other_view(self) -> None:
        """A field of lamps in place of the strips, or the other way round."""
        field = self.field()
        strips = self.stack.currentWidget() is field
        self.stack.setCurrentWidget(self.ledger if strips else field)
        self.head.setVisible(strips)
        field.show_rows(self.ledger.rows, self.ledger.current_id())
        self.front().setFocus()

    def _make_field(self) -> Field:
        from glimber.ui.weigh.field import Field

        made = Field()
        made.chosen.connect(self.choose)
        self.stack.addWidget(made)
        return made

    def try_on(self) -> None:
        """The place in front of the table, on the board."""
        if self.session.ledger is not None:
            self.case.try_on(self.session.ledger)

    # What settles

    def _show_settling(self) -> None:
        ledger = self.session.ledger
        if ledger is None or not ledger.practice.changes:
            if self.settling.made is not None:
                self.settling().hide()
            return
        if self._settled is None or self._settled[0] is not ledger:
            from glimber.core.decide.settling import settlings

            self._settled = ledger, settlings(ledger)  # once for a ledger, not for each row that is walked over
        found = self._settled[1]
        if found or self.settling.made is not None:
            self.settling().show_settlings(ledger.folio, found, self.ledger.current_id())

    def _make_settling(self) -> SettlingStrip:
        from glimber.ui.weigh.settle import SettlingStrip

        made = SettlingStrip()
        made.chosen.connect(self.choose)
        self.left.insertWidget(0, made)
        return made

    def confirm(self) -> None:
        """The change in front stays."""
        settling = self.settling().current
        if settling is not None:
            self.verbs.confirm(settling)

    def go_back(self) -> None:
        """The change in front is taken back."""
        settling = self.settling().current
        if settling is not None:
            self.verbs.go_back(settling.change)

    # Rearranging

    def rearrange(self) -> None:
        """The frontier of the layer of the binding in front."""
        from glimber.core.decide.rearrange import Wish

        self._replan(Wish())

    def _replan(self, wish: Wish) -> None:
        from glimber.core.decide.candidates import Forecasts
        from glimber.core.decide.rearrange import CannotReplanError, replan
        from glimber.core.notation.keys import Spot

        ledger, verdict = self.session.ledger, self.case.verdict
        trigger = verdict.row.binding.trigger if verdict is not None else None
        if ledger is None or not isinstance(trigger, Spot):
            self.session.notified.emit("Only the keys of a layer can be rearranged; choose a binding that is on one.")
            return
        computer = self.session.computer

        def work(work: Work) -> list[Plan]:
            return replan(Forecasts(ledger, computer), trigger.board, trigger.layer, wish=wish)

        def failed(error: Exception) -> bool:
            if isinstance(error, CannotReplanError):
                self.session.notified.emit(str(error))
            return isinstance(error, CannotReplanError)

        self.session.jobs.run(_REPLAN, work, lambda plans: self.rearranging().show_plans(
            ledger.folio, trigger.board, trigger.layer, plans, wish), failed)  # fmt: skip

    def _make_rearranging(self) -> Rearrange:
        from glimber.ui.weigh.rearrange import Rearrange

        return Rearrange(self, self._replan, self._take_plan)

    def _take_plan(self, plan: Plan) -> None:
        why = f"one of {plan.moves} moves that save {plan.saves_s_week:.0f} s a week"
        try:
            self.session.take_steps(
                f"rearrange with {plan.moves} moves", {step.binding: step.to for step in plan.steps}, why
            )
        except (ValueError, StoreError) as error:
            self.session.notified.emit(str(error))
            return
        self.session.notified.emit(
            f"{plan.moves} bindings moved in one step; they wait on the change sheet (S). Ctrl+Z takes them back."
        )

    # Files

    def ask_sheet_file(self) -> None:
        """Ask where, and write the change sheet."""
        self._ask(
            "Write the change sheet",
            "changes.md",
            "Markdown (*.md);;Table (*.csv);;Document (*.pdf)",
            self.verbs.write_sheet,
        )

    def ask_report_file(self) -> None:
        """Ask where, and write the progress report."""
        self._ask(
            "Write the progress report",
            "how-it-goes.pdf",
            "Document (*.pdf);;Figures (*.csv);;Drawing (*.svg)",
            self.reports().write,
        )

    def _ask(self, title: str, name: str, kinds: str, write: object) -> None:
        from PySide6.QtWidgets import QFileDialog

        chosen, _ = QFileDialog.getSaveFileName(self, title, name, kinds)
        if chosen:
            write(Path(chosen))  # type: ignore[operator]

    def set_it(self) -> None:
        """Set what waits on the sheet where it belongs."""
        self.in_place().show()

    def _make_in_place(self) -> InPlace:
        from glimber.ui.weigh.inplace import InPlace

        return InPlace(self.session, self.host)

    def _make_reports(self) -> Reports:
        from glimber.ui.weigh.reports import Reports

        return Reports(self.session, self.host, lambda: self.case.verdict)

    def drill_this(self) -> None:
        """A round of this binding alone."""
        id = self.ledger.current_id()
        if id is not None:
            self.host.drill([id])
