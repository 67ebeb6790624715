"""What is seen during a round: the prompt and nothing else; after a slip the board's outline, ring, arrow and sentence."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QFocusEvent, QFontMetricsF, QKeyEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from glimber.core.keys import Spot, strikes_of
from glimber.core.round import CLEAN_HITS, Lane
from glimber.core.standin_keys import here_words
from glimber.ui.drill.play import RoundPlay
from glimber.ui.keystrokes import KeyReader, monotonic_ms
from glimber.ui.look import BODY, HEADING, LARGE, PROMPT, TITLE
from glimber.ui.marks import paint_mark
from glimber.ui.paintboard import BoardMarks, BoardOutline
from glimber.ui.style import theme
from glimber.ui.type import font

_TIMELINE = 33


class PromptView(QWidget):
    """The full window during a round. It holds the keyboard while a prompt is up."""

    def __init__(self, end_round: Callable[[], None]) -> None:
        super().__init__()
        self.play: RoundPlay | None = None
        self._end_round = end_round
        self._unshown = False
        self.setObjectName("desk")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Prompt")
        self.reader = KeyReader(self._take, self)
        self.board = BoardOutline("Where it was struck, and where it was wanted")
        self.board.pointed.connect(self._pointed)
        self.board.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.sentence = QLabel()
        self.sentence.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        self.sentence.setWordWrap(True)
        self.sentence.setTextFormat(Qt.TextFormat.RichText)
        self.here = QLabel()
        self.here.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        self.here.setProperty("role", "quiet")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(40, 236, 40, 120)
        layout.setSpacing(10)
        layout.addWidget(self.board, 6)
        layout.addWidget(self.sentence)
        layout.addWidget(self.here)
        layout.addStretch(1)
        self._clock = QTimer(self)
        self._clock.setInterval(40)
        self._clock.timeout.connect(self._paint_time)

    def begin(self, play: RoundPlay) -> None:
        """Show a round from its first prompt."""
        self.play = play
        play.changed.connect(self._changed)
        self.setFocus()
        self.grab()
        self._clock.start()
        play.next_prompt()

    def end(self) -> None:
        """The round is over or put aside: the keyboard goes back to everybody."""
        self._clock.stop()
        self.release()
        self.play = None

    def grab(self) -> None:
        if self.isVisible():
            self.grabKeyboard()

    def release(self) -> None:
        self.releaseKeyboard()
        self.reader.forget()

    # Keys

    def event(self, event: QEvent) -> bool:
        kind = event.type()
        if self.play is not None and isinstance(event, QKeyEvent):
            if kind == QEvent.Type.ShortcutOverride:
                event.accept()
                return True
            if kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
                self._key(event)
                event.accept()
                return True
        if kind == QEvent.Type.WindowDeactivate and self.play is not None:
            self.play.pause("the window lost focus")
        return super().event(event)

    def _key(self, event: QKeyEvent) -> None:
        assert self.play is not None
        if not self.play.paused:
            self.reader.read(event)
        elif event.type() == QEvent.Type.KeyPress and not event.isAutoRepeat():
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.grab()
                self.play.go_on()
            elif event.key() == Qt.Key.Key_Q:
                self._end_round()

    def _take(self, event, late_ms: float) -> None:  # type: ignore[no-untyped-def]
        if self.play is not None:
            self.play.take(event, late_ms)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        if self.play is not None and not self.play.paused and self.isVisible():
            self.play.pause("the window lost focus")
        super().focusOutEvent(event)

    def _pointed(self, key: str) -> None:
        if self.play is not None and self.play.drill.mode == "point":
            self.play.point(key)

    # Painting

    def _changed(self) -> None:
        play = self.play
        if play is None:
            return
        if play.paused:
            self.release()
            self.setFocus()
        self._unshown = not play.paused
        self._lay_out(play)
        self.update()

    def _lay_out(self, play: RoundPlay) -> None:
        binding, answer = play.binding, play.answer
        pointing = play.drill.mode == "point" and not play.paused
        self.board.setVisible(bool(not play.paused and (answer is not None or pointing)))
        self.sentence.setVisible(answer is not None and not play.paused)
        self.here.setVisible(self.sentence.isVisible())
        if binding is None:
            return
        folio = play.drill.folio
        wanted, pressed = binding.trigger, answer.pressed if answer else None
        if isinstance(wanted, Spot):
            shape, lit = folio.boards[wanted.board], wanted.keys
            struck = pressed.keys if isinstance(pressed, Spot) and pressed.board == wanted.board else ()
        else:
            shape = folio.keyboard
            at = answer.done if answer else 0
            lit, struck = _key_of(folio, wanted, at), _key_of(folio, pressed, at)
        marks = BoardMarks(
            lit if answer else (), None, struck if answer else (), prints=answer is not None or not pointing
        )
        said = f"Wanted {wanted}" if answer else "A blank board: click the key"
        self.board.show_board(shape, folio.legend, marks, said)
        if answer is not None:
            t = theme()
            first, _, rest = answer.words.partition(". ")
            self.sentence.setText(
                f'<span style="color:{t.slip}; font-size:{HEADING}px">{_escaped(first)}.</span> '
                f'<span style="font-size:{HEADING}px">{_escaped(rest)}</span>'
            )
            way = f" Here: {here_words(folio, wanted)}." if isinstance(wanted, Spot) and not pointing else ""
            self.here.setText(("Click it to go on." if pointing else "Strike it to go on.") + way)

    def paintEvent(self, event: QPaintEvent) -> None:
        play = self.play
        if play is None:
            return
        painter = QPainter(self)
        painter.fillRect(event.rect(), QColor(theme().desk))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if event.rect().height() > 3:
            self._paint_header(painter, play)
            if play.paused:
                self._paint_pause(painter)
            else:
                self._paint_prompt(painter, play)
            self._paint_lanes(painter, play)
            self._paint_foot(painter, play)
        self._paint_timeline(painter, play)
        painter.end()
        if self._unshown and event.rect().height() > 3:
            self._unshown = False
            play.shown(monotonic_ms())

    def _paint_header(self, painter: QPainter, play: RoundPlay) -> None:
        painter.setFont(font(BODY))
        painter.setPen(QColor(theme().faint))
        line = QRectF(28, 18, self.width() - 56, 26)
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, f"Round {play.number} · {play.drill.mode}")
        passed = int((monotonic_ms() - play.began_ms) / 1000)
        painter.drawText(
            line, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, f"{passed // 60}:{passed % 60:02d}"
        )

    def _paint_prompt(self, painter: QPainter, play: RoundPlay) -> None:
        binding = play.binding
        command = play.drill.folio.command_of(binding) if binding else None
        if binding is None or command is None:
            return
        t = theme()
        low = 0 if self.board.isVisible() else round(self.height() * 0.14)
        size = PROMPT
        while size > TITLE and QFontMetricsF(font(size, 600)).horizontalAdvance(command.name) > self.width() - 80:
            size -= 4
        painter.setFont(font(size, 600))
        painter.setPen(QColor(t.text))
        box = QRectF(40, 104 + low, self.width() - 80, 84)
        name = QFontMetricsF(font(size, 600)).elidedText(command.name, Qt.TextElideMode.ElideRight, box.width())
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)
        group = play.drill.folio.group_of(command)
        program = play.drill.folio.programs[command.program].name
        board = f" · {play.drill.folio.boards[binding.trigger.board].id}" if isinstance(binding.trigger, Spot) else ""
        text = (f"{group.name} · " if group else "") + program + board
        width = QFontMetricsF(font(LARGE)).horizontalAdvance(text)
        left = (self.width() - width) / 2 + (10 if group else 0)
        if group is not None:
            paint_mark(painter, group.mark, QPointF(left - 14, 198 + low), 11, QColor(t.inks[group.ink]))
        painter.setFont(font(LARGE))
        painter.setPen(QColor(t.quiet))
        painter.drawText(QRectF(left, 184 + low, width + 10, 28), Qt.AlignmentFlag.AlignVCenter, text)

    def _paint_pause(self, painter: QPainter) -> None:
        painter.setFont(font(TITLE, 600))
        painter.setPen(QColor(theme().text))
        middle = QRectF(40, self.height() * 0.28, self.width() - 80, 50)
        painter.drawText(middle, Qt.AlignmentFlag.AlignCenter, "Paused")
        painter.setFont(font(LARGE))
        painter.setPen(QColor(theme().quiet))
        painter.drawText(middle.translated(0, 48), Qt.AlignmentFlag.AlignCenter,
                         "Enter goes on. Q puts the round aside; it can be resumed.")  # fmt: skip

    def _paint_lanes(self, painter: QPainter, play: RoundPlay) -> None:
        """One row for the round: five short strokes a binding, lit with the grip at the moment of each hit."""
        lanes = play.drill.state.lanes
        column = min(154.0, (self.width() - 60) / max(1, len(lanes)))
        left = (self.width() - column * len(lanes)) / 2
        top = self.height() - 92.0
        for place, lane in enumerate(lanes):
            self._paint_lane(painter, play, lane, left + place * column, top, column)

    def _paint_lane(self, painter: QPainter, play: RoundPlay, lane: Lane, x: float, y: float, column: float) -> None:
        t = theme()
        grips = play.grips.get(lane.binding, [])
        painter.setPen(Qt.PenStyle.NoPen)
        for stroke in range(CLEAN_HITS):
            lit = t.lamp_at(max(0.35, grips[stroke])) if stroke < len(grips) else t.light
            painter.setBrush(QColor(lit if stroke < lane.hits else t.raised))
            painter.drawRoundedRect(QRectF(x + stroke * 19, y, 15, 5), 2.5, 2.5)
        command = play.drill.folio.command_of(play.drill.folio.bindings[lane.binding])
        here = lane.binding == play.drill.state.asked and not play.paused
        painter.setFont(font(12, 600 if here else 400))
        painter.setPen(QColor(t.text if here else t.faint))
        name = QFontMetricsF(painter.font()).elidedText(
            command.name if command else "", Qt.TextElideMode.ElideRight, column - 14
        )
        painter.drawText(QRectF(x, y + 12, column - 8, 22), Qt.AlignmentFlag.AlignVCenter, name)

    def _paint_foot(self, painter: QPainter, play: RoundPlay) -> None:
        t = theme()
        y = self.height() - 32.0
        painter.setPen(QPen(QColor(t.line), 1))
        painter.drawLine(QPointF(0, y + 0.5), QPointF(self.width(), y + 0.5))
        hints = [("hold Esc", "pause")]
        if play.may_give_up() and play.drill.mode == "press":
            hints.append(("F1", "I do not know"))
        x = 20.0
        for key, what in hints if not play.paused else [("Enter", "go on"), ("Q", "put aside")]:
            for text, weight, ink in ((key, 600, t.quiet), (what, 400, t.faint)):
                painter.setFont(font(12, weight))
                painter.setPen(QColor(ink))
                width = QFontMetricsF(painter.font()).horizontalAdvance(text)
                painter.drawText(QRectF(x, y + 1, width + 4, 31), Qt.AlignmentFlag.AlignVCenter, text)
                x += width + 8
            x += 16
        painter.setFont(font(12))
        painter.setPen(QColor(t.faint))
        count = f"{play.drill.state.nth} of about {play.drill.state.expected_prompts()} prompts"
        right = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        painter.drawText(QRectF(0, y + 1, self.width() - 20, 31), right, count)

    def _paint_timeline(self, painter: QPainter, play: RoundPlay) -> None:
        left = play.time_left(monotonic_ms()) if not play.paused else 0.0
        if not play.waits_for_strike:
            painter.fillRect(QRectF(0, self.height() - _TIMELINE, self.width() * left, 2), QColor(theme().light))

    def _paint_time(self) -> None:
        self.update(0, self.height() - _TIMELINE, self.width(), 2)


def _key_of(folio, trigger, at: int) -> tuple[str, ...]:  # type: ignore[no-untyped-def]
    """The place of a chord's key, or of the step of a sequence at which it went wrong."""
    if trigger is None or isinstance(trigger, Spot):
        return ()
    strikes = strikes_of(trigger, folio.legend, folio.bundles) or ()
    return (strikes[min(at, len(strikes) - 1)][1],) if strikes else ()


def _escaped(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;")
