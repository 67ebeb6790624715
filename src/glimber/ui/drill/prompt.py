"""The view during a round: the prompt and nothing else; after a slip the board's outline, ring, arrow and sentence."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import cache

from PySide6.QtCore import QEvent, QObject, QPointF, QRect, QRectF, Qt, QTimer
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
)
from PySide6.QtWidgets import QWidget

from glimber.core.engine.events import Event
from glimber.core.engine.standin_keys import here_words, keys_before
from glimber.core.model.board import Board
from glimber.core.model.describe import place_words
from glimber.core.model.folio import Binding, Folio
from glimber.core.notation.keys import Spot, Trigger, strikes_of
from glimber.core.practice.aids import Help, aids_of
from glimber.core.practice.answer import Answer
from glimber.core.practice.lookalikes import look_alikes
from glimber.core.practice.spoken import spoken
from glimber.ui.capture.keystrokes import KeyReader, monotonic_ms
from glimber.ui.drill.cue import paint_cue
from glimber.ui.drill.lanes import LaneRow
from glimber.ui.drill.naming import NameList
from glimber.ui.drill.play import RoundPlay
from glimber.ui.drill.sentence import SlipSentence
from glimber.ui.paint.board import BoardMarks, BoardOutline
from glimber.ui.paint.fonts import font
from glimber.ui.paint.look import BODY, LARGE, TITLE
from glimber.ui.paint.marks import paint_mark
from glimber.ui.paint.style import fill, theme
from glimber.ui.widgets.announce import announce

_TIMELINE = 33
_HEADER = 50
_LEADS_AWAY = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.MetaModifier
_HELP_LIGHT = 0.6
"""Many keys lit at once are lit less."""


class PromptView(QWidget):
    """The full window during a round. It holds the keyboard while a prompt is up."""

    def __init__(self, end_round: Callable[[], None], rests: Callable[[bool], None]) -> None:
        super().__init__()
        self.play: RoundPlay | None = None
        self._end_round = end_round
        self._rests = rests
        self._unshown = False
        self._was_paused = True
        self._clickable: list[tuple[QRectF, Callable[[], None]]] = []
        self._asked: tuple[int, bool] | None = None
        self._spoken = ""
        self.speak: Callable[[str], object] = lambda text: None
        """Speaks what is to be seen, where the person wants that."""
        self.mixed: Callable[[], Mapping[tuple[str, str], int]] = dict
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # nothing below it needs to be painted first
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Prompt")
        self.reader = KeyReader(self._take, self)
        self.board = BoardOutline("Where it was struck, and where it was wanted", lambda: theme().desk)
        self.board.pointed.connect(self._pointed)
        self.board.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.sentence = SlipSentence()
        self.names = NameList()
        self.names.named.connect(self._named)
        for child in (self.board, self.sentence, self.names):
            child.setParent(self)
            child.hide()
        self._lanes = LaneRow()
        self._clock = QTimer(self)
        self._clock.setInterval(40)
        self._clock.timeout.connect(self._paint_time)

    def begin(self, play: RoundPlay) -> None:
        """Show a round from its first prompt."""
        self.play = play
        play.changed.connect(self._changed)
        play.lit.connect(self._paint_row)
        self._lanes.clear()
        self.installEventFilter(self)
        self.setFocus()
        self.take_keyboard()
        self._clock.start()
        play.begin()

    def end(self) -> None:
        """The round is over or put aside: the keyboard goes back to everybody."""
        self._clock.stop()
        self.removeEventFilter(self)
        self.give_keyboard()
        self.play = None

    def take_keyboard(self) -> None:
        """Every key comes here, those that the desktop would take among them."""
        if self.isVisible():
            self.grabKeyboard()

    def give_keyboard(self) -> None:
        """Keys go where they went before."""
        self.releaseKeyboard()
        self.reader.forget()

    # Keys

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Between ``begin`` and ``end`` everything that comes here is looked at first."""
        kind = event.type()
        if self.play is not None and isinstance(event, QKeyEvent):
            if self.play.rests and event.modifiers() & _LEADS_AWAY:
                return False  # to another room, or out
            if kind == QEvent.Type.ShortcutOverride:
                event.accept()
                return True
            if kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
                self._key(event)
                event.accept()
                return True
        if kind == QEvent.Type.WindowDeactivate and self.play is not None:
            self.play.pause("the window lost focus")
        return False

    def _key(self, event: QKeyEvent) -> None:
        assert self.play is not None
        if not self.play.rests:
            self.reader.read(event)
            going_on = self.play is not None and not self.play.rests
            own = event.key() in (Qt.Key.Key_Escape, Qt.Key.Key_F1, Qt.Key.Key_F2)
            down = event.type() == QEvent.Type.KeyPress and not event.isAutoRepeat()
            if going_on and down and not own and self.play.drill.mode == "name" and self.play.prompt_ms is not None:
                self.names.key(event)
        elif event.type() == QEvent.Type.KeyPress and not event.isAutoRepeat():
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.take_keyboard()
                self.play.go_on()
            elif event.key() == Qt.Key.Key_Q:
                self._end_round()

    def _take(self, event: Event, late_ms: float) -> None:
        if self.play is not None:
            self.play.take(event, late_ms)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        if self.play is not None and not self.play.paused and self.isVisible():
            self.play.pause("the window lost focus")
        super().focusOutEvent(event)

    def _pointed(self, key: str) -> None:
        if self.play is not None and self.play.drill.mode == "point":
            self.play.point(key)

    def _named(self, command: str, first_ms: float) -> None:
        if self.play is not None and self.play.drill.mode == "name":
            self.play.name(command, first_ms)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """The words at the foot can be clicked, where their keys may be answers."""
        play = self.play
        if play is not None and not play.rests:
            for box, act in self._clickable:
                if box.contains(event.position()):
                    act()
                    return
        super().mousePressEvent(event)

    # Painting

    def _changed(self) -> None:
        play = self.play
        if play is None:
            return
        if play.rests is not self._was_paused:
            self._rests(play.rests)
        if play.rests:
            self.give_keyboard()
            self.setFocus()
        elif self._was_paused and self.isActiveWindow() and self.hasFocus():
            self.take_keyboard()  # what could not be written is written: the keys belong to the prompt again
        self._unshown = not play.rests
        self._lay_out(play)
        self._say(play)
        if play.rests or self._was_paused:
            self._was_paused = play.rests
            self.update()
            return
        # Only the words change from one prompt to the next: the empty desk between them need not be painted again. The
        # name stays where it is when the board comes under it, which is calmer to look at, too.
        for top, height in ((self._top() - 8, 124), (self.height() - 100, 100)):
            self.update(0, top, self.width(), height)

    def _say(self, play: RoundPlay) -> None:
        """Say what is to be seen: a round must not be silent to a screen reader."""
        text = spoken(play.drill, self._heading(play), play.seconds_left())
        if text and text != self._spoken:
            self._spoken = text
            self.setAccessibleDescription(text)
            announce(self, text, urgent=True)
            self.speak(text)

    def _top(self) -> int:
        """Return where the name of the prompt begins."""
        return 104 + round(self.height() * 0.03)

    def _lay_out(self, play: RoundPlay) -> None:
        """Lay out the board, the sentence and the names, as far as each is shown."""
        answer, drill = play.answer, play.drill
        naming, helped = drill.mode == "name", drill.aids > 0 and answer is None
        has_sentence = answer is not None or helped or drill.showing
        _show(self.board, not play.paused and (has_sentence or naming or drill.mode == "point"))
        _show(self.sentence, not play.paused and has_sentence)
        _show(self.names, not play.paused and naming)
        if play.binding is None:
            return
        aid = aids_of(drill.folio, play.binding)[drill.aids - 1] if helped else None
        self._show_board(play, play.binding, aid)
        if naming:
            self._ask_name(play, play.binding)
        if aid is not None:
            self.sentence.say(f"{aid.words}.", f"Help {drill.aids} of {drill.most_aids}; this try does not count.")
        elif answer is not None:
            self._say_answer(play, play.binding, answer)
        elif drill.showing:
            self._say_new(play, play.binding)

    def _show_board(self, play: RoundPlay, binding: Binding, aid: Help | None) -> None:
        """The board of the wanted trigger: what is lit, what was struck, the way to it."""
        answer, drill = play.answer, play.drill
        folio, wanted = drill.folio, binding.trigger
        shape, lit, struck = _keys_on_board(folio, wanted, answer)
        naming, pointing = drill.mode == "name", drill.mode == "point"
        shown = answer is not None or naming or drill.showing
        way = keys_before(folio, wanted) if shown else ()
        dim = theme().lamp_at(_HELP_LIGHT) if aid is not None and len(aid.keys) > 1 else None
        lit = aid.keys if aid is not None else lit if shown else ()
        prints = answer is not None or drill.showing or not pointing
        marks = BoardMarks(lit, dim, () if naming or not answer else struck, prints=prints, way=way)
        words = f"Wanted {wanted}" if answer else f"Lit: {wanted}" if naming or drill.showing else "A blank board: click the key"
        self.board.show_board(shape, folio.legend, marks, aid.words if aid is not None else words)

    def _ask_name(self, play: RoundPlay, binding: Binding) -> None:
        """The names to choose from, once for each prompt."""
        drill, folio = play.drill, play.drill.folio
        if self._asked == (drill.state.nth, drill.forced):
            return
        self._asked = (drill.state.nth, drill.forced)
        everything = [folio.commands[ref] for ref, own in folio.bindings_of.items() if own and ref in folio.commands]
        self.names.ask(look_alikes(folio, binding, self.mixed(), f"{drill.seed} {drill.state.nth}"), everything)

    def _say_new(self, play: RoundPlay, binding: Binding) -> None:
        """A new binding is shown: its place, its reason, and what to do."""
        proposed = play.suggested_reason
        why = binding.reason or play.reasons.get(binding.id) or (f"Perhaps: {proposed}" if proposed is not None else "")
        reason = f" {why.rstrip('.')}." if why else ""
        do = "Click it once" if play.drill.mode == "point" else "Strike it once"
        keep = " F2 keeps that reason." if proposed is not None and play.may_use("F2") else ""
        place = place_words(play.drill.folio, binding.trigger)
        self.sentence.say(f"New: {place}.{reason}", f"{do}; it is asked for after two others.{keep}")

    def _say_answer(self, play: RoundPlay, binding: Binding, answer: Answer) -> None:
        """Show what was struck, what was wanted, and how the round continues."""
        wanted, mode = binding.trigger, play.drill.mode
        here = ""
        if isinstance(wanted, Spot) and mode != "point":
            here = f" Here: {here_words(play.drill.folio, wanted, fingers=True)}."
        do = "Click it to go on." if mode == "point" else "Name it to go on." if mode == "name" else "Strike it to go on."
        self.sentence.say(answer.words, do if mode == "name" else do + here)

    def paintEvent(self, event: QPaintEvent) -> None:
        play = self.play
        if play is None:
            return
        painter = QPainter(self)
        fill(painter, event.rect(), QColor(theme().desk))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if event.rect().height() > 3:
            if event.region().intersects(QRect(0, 0, self.width(), _HEADER)):
                self._paint_header(painter, play)
            if play.stuck:
                self._paint_stuck(painter, play)
            elif play.paused:
                self._paint_pause(painter)
            else:
                self._paint_prompt(painter, play)
            self._lanes.paint(painter, play, self.width(), self.height())
            self._paint_foot(painter, play)
        self._paint_timeline(painter, play)
        painter.end()
        if self._unshown and event.rect().height() > 3:
            self._unshown = False
            play.shown(monotonic_ms())
            QTimer.singleShot(0, self._get_ready)

    def _get_ready(self) -> None:
        """While the person thinks: what a slip would show of this board."""
        play = self.play
        if play is not None and play.binding is not None:
            trigger, folio = play.binding.trigger, play.drill.folio
            self.board.prepare(
                folio.boards[trigger.board] if isinstance(trigger, Spot) else folio.keyboard, folio.legend
            )

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        top = self._top() + 132
        tall = max(60, self.height() - top - 216)
        self.board.setGeometry(40, top, self.width() - 80, tall)
        self.sentence.setGeometry(40, top + tall + 12, self.width() - 80, 88)
        self.names.setGeometry(40, self._top() + 58, self.width() - 80, 64)

    def _paint_row(self) -> None:
        self.update(0, self.height() - 96, self.width(), 12)

    def _paint_header(self, painter: QPainter, play: RoundPlay) -> None:
        painter.setFont(font(BODY))
        painter.setPen(QColor(theme().faint))
        line = QRectF(28, 18, self.width() - 56, 26)
        painter.drawText(
            line,
            Qt.AlignmentFlag.AlignVCenter,
            self._heading(play),
        )
        left = play.seconds_left()
        passed = int((monotonic_ms() - play.began_ms) / 1000 if left is None else left)
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                         f"{passed // 60}:{passed % 60:02d}{'' if left is None else ' left'}")  # fmt: skip

    def _heading(self, play: RoundPlay) -> str:
        state = play.drill.state
        if state.order:
            return f"{play.named} · step {min(state.nth, len(state.order))} of {len(state.order)} · {play.drill.mode}"
        return f"{'Sprint' if play.drill.options.sprint else 'Round'} {play.number} · {play.drill.mode}"

    def _paint_prompt(self, painter: QPainter, play: RoundPlay) -> None:
        binding = play.binding
        command = play.drill.folio.command_of(binding) if binding else None
        if binding is None or command is None:
            return
        t = theme()
        top = self._top()
        folio = play.drill.folio
        cue = play.drill.cue(binding)
        group = folio.group_of(command)
        ink = t.inks[group.ink] if group is not None else t.text
        if cue.kind == "place":
            self._paint_place(painter, play, top)
            return
        paint_cue(painter, QRectF(40, top, self.width() - 80, 84), cue, command.name, play.session.folder, ink)
        program = play.drill.folio.programs[command.program].name
        board = f" · {play.drill.folio.boards[binding.trigger.board].id}" if isinstance(binding.trigger, Spot) else ""
        text = (f"{group.name} · " if group else "") + program + board
        if cue.kind != "name" and play.answer is not None:
            text = f"{command.name} · {text}"  # what was meant is shown after the answer
        width = _width(text, LARGE, 400)
        left = (self.width() - width) / 2 + (10 if group else 0)
        if group is not None:
            paint_mark(painter, group.mark, QPointF(left - 14, top + 94), 11, QColor(t.inks[group.ink]))
        painter.setFont(font(LARGE))
        painter.setPen(QColor(t.quiet))
        painter.drawText(QRectF(left, top + 80, width + 10, 28), Qt.AlignmentFlag.AlignVCenter, text)

    def _paint_place(self, painter: QPainter, play: RoundPlay, top: float) -> None:
        """The trigger whose command is asked for, above the names."""
        assert play.binding is not None
        painter.setFont(font(TITLE, 600))
        painter.setPen(QColor(theme().text))
        text = place_words(play.drill.folio, play.binding.trigger)
        painter.drawText(QRectF(40, top, self.width() - 80, 46), Qt.AlignmentFlag.AlignCenter, text)

    def _paint_pause(self, painter: QPainter) -> None:
        painter.setFont(font(TITLE, 600))
        painter.setPen(QColor(theme().text))
        middle = QRectF(40, self.height() * 0.28, self.width() - 80, 50)
        painter.drawText(middle, Qt.AlignmentFlag.AlignCenter, "Paused")
        painter.setFont(font(LARGE))
        painter.setPen(QColor(theme().quiet))
        painter.drawText(middle.translated(0, 48), Qt.AlignmentFlag.AlignCenter,
                         "Enter continues. Q puts the round aside; it can be resumed.")  # fmt: skip

    def _paint_stuck(self, painter: QPainter, play: RoundPlay) -> None:
        """Why the try could not be written, in the prompt's own place: it stays the present one until it is."""
        painter.setFont(font(TITLE, 600))
        painter.setPen(QColor(theme().text))
        middle = QRectF(40, self.height() * 0.22, self.width() - 80, 50)
        painter.drawText(middle, Qt.AlignmentFlag.AlignCenter, "This try is not written yet")
        painter.setFont(font(LARGE))
        painter.setPen(QColor(theme().slip))
        why = QRectF(self.width() * 0.15, middle.bottom() + 8, self.width() * 0.7, 90)
        painter.drawText(why, Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap, play.stuck)
        painter.setPen(QColor(theme().quiet))
        painter.drawText(why.translated(0, 96), Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop,
                         "Enter tries the same record again. Q puts the round aside; the try is lost then.")  # fmt: skip

    def _paint_foot(self, painter: QPainter, play: RoundPlay) -> None:
        t = theme()
        y = self.height() - 32.0
        fill(painter, QRectF(0, y, self.width(), 1), QColor(t.line))
        self._clickable.clear()
        acts = {"I do not know": ("F1", play.give_up), "help": ("F2", play.help)}
        if play.drill.showing:
            acts = {"keep that reason": ("F2", play.take_reason)} if play.suggested_reason is not None else {}
        hints = [("hold Esc", "pause")]
        if not play.drill.forced:
            hints += [(key if play.may_use(key) else "click", what) for what, (key, _) in acts.items()]
        x = 20.0
        if play.rests:
            hints = [("Enter", "try again" if play.stuck else "go on"), ("Q", "put aside")]
        for key, what in hints:
            begin = x
            for text, weight, ink in ((key, 600, t.quiet), (what, 400, t.faint)):
                painter.setFont(font(12, weight))
                painter.setPen(QColor(ink))
                width = _width(text, 12, weight)
                painter.drawText(QRectF(x, y + 1, width + 4, 31), Qt.AlignmentFlag.AlignVCenter, text)
                x += width + 8
            if what in acts:
                self._clickable.append((QRectF(begin, y, x - begin, 32), acts[what][1]))
            x += 16
        painter.setFont(font(12))
        painter.setPen(QColor(t.faint))
        sprint = play.drill.options.sprint
        hits = sum(one.counts and one.outcome == "hit" for one in play.tries)
        count = f"{play.drill.state.nth} of about {play.drill.state.expected_prompts()} prompts"
        if sprint:
            count = f"{hits} clean {'hit' if hits == 1 else 'hits'}"
        right = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        painter.drawText(QRectF(0, y + 1, self.width() - 20, 31), right, count)

    def _paint_timeline(self, painter: QPainter, play: RoundPlay) -> None:
        left = play.time_left(monotonic_ms()) if not play.paused else 0.0
        if not play.waits_for_strike:
            fill(painter, QRectF(0, self.height() - _TIMELINE, self.width() * left, 2), QColor(theme().light))

    def _paint_time(self) -> None:
        self.update(0, self.height() - _TIMELINE, self.width(), 2)


def _keys_on_board(folio: Folio, wanted: Trigger, answer: Answer | None) -> tuple[Board, tuple[str, ...], tuple[str, ...]]:
    """Return the board of a trigger, the trigger's keys on it, and those that the answer struck there."""
    pressed = answer.pressed if answer else None
    if isinstance(wanted, Spot):
        struck = pressed.keys if isinstance(pressed, Spot) and pressed.board == wanted.board else ()
        return folio.boards[wanted.board], wanted.keys, struck
    at = answer.done if answer else 0
    return folio.keyboard, _key_of(folio, wanted, at), _key_of(folio, pressed, at)


def _key_of(folio: Folio, trigger: Trigger | None, at: int) -> tuple[str, ...]:
    """Return the place of a chord's key, or of the step of a sequence at which it went wrong."""
    if trigger is None or isinstance(trigger, Spot):
        return ()
    strikes = strikes_of(trigger, folio.legend, folio.bundles) or ()
    return (strikes[min(at, len(strikes) - 1)][1],) if strikes else ()


@cache
def _width(text: str, size: int, weight: int) -> float:
    return QFontMetricsF(font(size, weight)).horizontalAdvance(text)


def _show(widget: QWidget, shown: bool) -> None:
    if widget.isHidden() == shown:
        widget.setVisible(shown)
