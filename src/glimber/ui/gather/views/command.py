"""The selected command: all its fields, each edited in place, and its keys."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFocusEvent, QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFormLayout,
    QFrame,
    QHBoxLayout,
    QPlainTextEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from glimber.core.edit.commands import add_context, edit_binding, edit_command, put_in_group, step_fault
from glimber.core.edit.defaults import back_to_defaults, departures
from glimber.core.edit.edit import EditError, retire_binding
from glimber.core.model.describe import place_words
from glimber.core.model.folio import INKS, MARKS, Binding, Command, Folio
from glimber.core.model.systems import keys_of_from, keys_of_words
from glimber.core.stats.reach import slow_way_s
from glimber.core.stats.usage import weekly_uses
from glimber.store.faults import StoreError
from glimber.ui.paint.fonts import put_text
from glimber.ui.paint.plain_text import Label, tip
from glimber.ui.paint.style import theme
from glimber.ui.session.session import Session
from glimber.ui.widgets.chips import put_chips, words_of
from glimber.ui.widgets.field import Field
from glimber.ui.widgets.rows import Index, PaintedRow
from glimber.ui.widgets.text_list import TextList, TextRow


class _Steps(QPlainTextEdit):
    """A step a line; its value is taken when the field is left, like a line of text."""

    def __init__(self, left: Callable[[], None]) -> None:
        super().__init__()
        self._left = left
        self.setTabChangesFocus(True)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self._left()


class _KeysList(TextList):
    """Del takes the key in front off the command."""

    def __init__(self, off: Callable[[], None]) -> None:
        super().__init__()
        self._off = off

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Delete:
            self._off()
            return
        super().keyPressEvent(event)


class CommandPane(QScrollArea):
    """Fields of one command; an edit is sent when a field is left or Enter is struck in it. ``left``: Escape was struck."""

    left = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.ref: str | None = None
        self.press: Callable[[], None] = lambda: None
        self.spell: Callable[[], None] = lambda: None
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("The command")
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.name, self.label, self.words = Field(), Field(), Field()
        self.uses, self.set_at, self.icon = Field(), Field(), Field()
        self.picture, self.keys_of = Field(), Field()
        self.group, self.context, self.ink, self.mark = QComboBox(), QComboBox(), QComboBox(), QComboBox()
        self.careful = QCheckBox("Careful: a mistake is costly")
        self.slow = _Steps(self._slow_left)
        self.slow.setFixedHeight(92)
        self.slow.setPlaceholderText("menu File\nclick Save\nfield 8")
        self.seconds, self.was, self.default = Label(), Label(), Label()
        self.program = Label()
        self.keys = _KeysList(self.take_off)
        self.keys.setItemDelegate(_Keys(self.keys))
        self.keys.setAccessibleName("Keys of the command")
        self.reason, self.computers = Field(), Field()
        self.back = QPushButton("Back to it")
        self.press_button, self.spell_button = QPushButton("Press a key"), QPushButton("Spell one")
        for label in (self.seconds, self.was, self.default, self.program):
            label.setProperty("role", "quiet")
            label.setWordWrap(True)
        self._lay_out()
        self._connect()
        self.show_command(None)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        else:
            super().keyPressEvent(event)

    def _lay_out(self) -> None:
        inside = QFrame()
        inside.setObjectName("panel")
        whole = QVBoxLayout(inside)  # what a tall window leaves stays below the rows, not between them
        whole.setContentsMargins(14, 12, 14, 12)
        form = QFormLayout()
        whole.addLayout(form)
        whole.addStretch(1)
        form.setVerticalSpacing(6)
        form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.AllNonFixedFieldsGrow)
        form.addRow(self.program)
        look, keys = QHBoxLayout(), QHBoxLayout()
        for widget in (self.ink, self.mark):
            look.addWidget(widget, 1)
        for button in (self.press_button, self.spell_button):
            button.setProperty("narrow", "true")
            keys.addWidget(button)
        keys.addStretch(1)
        default = QHBoxLayout()
        default.addWidget(self.default, 1)
        default.addWidget(self.back)
        rows: list[tuple[str, QWidget | QHBoxLayout]] = [
            ("Name", self.name), ("", self.was), ("Label", self.label), ("Keys", self.keys), ("Add a key", keys),
            ("Reason", self.reason), ("Computers", self.computers), ("Elsewhere", self.keys_of), ("", default),
            ("Uses a day", self.uses),
            ("Slow way", self.slow), ("", self.seconds), ("Group", self.group), ("Ink, mark", look), ("Context", self.context),
            ("", self.careful), ("Cues", self.words), ("Icon", self.icon), ("Picture", self.picture), ("Set at", self.set_at),
        ]  # fmt: skip
        for text, field in rows:
            label = Label(text)
            label.setProperty("role", "quiet")
            form.addRow(label, field)
            if text and isinstance(field, QWidget):
                field.setAccessibleName(text)
        self._form = form
        self.keys.setFixedHeight(74)
        self.words.setPlaceholderText("other words, situations, with ; between")
        self.computers.setPlaceholderText("all; or names with , between")
        self.icon.setPlaceholderText("a name such as anchor")
        self.keys_of.setPlaceholderText("keys on other systems, such as mac Super+S")
        self.picture.setPlaceholderText("icons/lead.svg")
        for combo, what in ((self.group, "Group"), (self.context, "Context")):
            line = Field()
            line.setAccessibleName(what)
            combo.setEditable(True)
            combo.setLineEdit(line)
        self.ink.addItems(INKS)
        self.mark.addItems(MARKS)
        self.ink.setAccessibleName("Ink of the group")
        self.mark.setAccessibleName("Mark of the group")
        for box in (self.ink, self.mark):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        for combo in (self.group, self.context):
            combo.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            combo.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self.setWidget(inside)

    def _connect(self) -> None:
        texts: dict[Field, tuple[str, Callable[[str], object]]] = {
            self.name: ("name", str.strip), self.label: ("label", _or_none), self.set_at: ("set_at", _or_none),
            self.icon: ("icon", _or_none), self.picture: ("picture", _or_none), self.uses: ("uses_per_day", _uses),
            self.keys_of: ("keys_of", keys_of_from),
            self.words: ("words", lambda text: tuple(one.strip() for one in text.split(";") if one.strip())),
        }  # fmt: skip
        for field, (what, read) in texts.items():
            field.editingFinished.connect(partial(self._on_edited, field, what, read))
        self.careful.clicked.connect(lambda on: self._send("careful", careful=on))
        for combo, send in ((self.group, self._group_said), (self.context, self._context_said)):
            combo.activated.connect(lambda _, send=send: send())
            edit = combo.lineEdit()
            assert edit is not None
            edit.editingFinished.connect(send)
        for combo in (self.ink, self.mark):
            combo.activated.connect(lambda _: self._look_said())
        self.slow.textChanged.connect(self._show_seconds)
        self.keys.moved.connect(lambda _: self._show_binding())
        self.reason.editingFinished.connect(lambda: self._binding_said("reason", _or_none(self.reason.text())))
        self.computers.editingFinished.connect(
            lambda: self._binding_said(
                "computers", tuple(filter(None, map(str.strip, self.computers.text().split(","))))
            )
        )
        self.back.clicked.connect(self.back_to_default)
        self.press_button.clicked.connect(lambda: self.press())
        self.spell_button.clicked.connect(lambda: self.spell())

    # What is shown

    def show_command(self, ref: str | None) -> None:
        """Bring a command to the front; None where there is none."""
        folio = self.session.folio
        same = ref == self.ref
        self.ref = ref if ref in folio.commands else None
        inside = self.widget()
        assert inside is not None
        inside.setVisible(self.ref is not None)
        shown = Qt.ScrollBarPolicy.ScrollBarAsNeeded if self.ref is not None else Qt.ScrollBarPolicy.ScrollBarAlwaysOff
        self.setVerticalScrollBarPolicy(shown)
        if self.ref is None:
            return
        command = folio.commands[self.ref]
        self.program.setText(folio.programs[command.program].name)
        values = {self.name: command.name, self.label: command.label, self.set_at: command.set_at, self.icon: command.icon,
                  self.picture: command.picture, self.words: "; ".join(command.words),
                  self.keys_of: keys_of_words(command.keys_of)}  # fmt: skip
        for field, value in values.items():
            field.put(value or "")
        self.was.setText(f"formerly {', '.join(command.was)}" if command.was else "")
        self._row_visible(self.was, bool(command.was))
        self._show_uses(folio, command)
        self._show_group(folio, command, same)
        self.careful.setChecked(command.careful)
        if not self.slow.hasFocus():
            self.slow.blockSignals(True)
            self.slow.setPlainText("\n".join(command.slow_way))
            self.slow.blockSignals(False)
        self._show_seconds()
        self._show_keys(folio, command)

    def _show_uses(self, folio: Folio, command: Command) -> None:
        self.uses.put("" if command.uses_per_day is None else f"{command.uses_per_day:g}")
        counted = self.session.ledger.at_work(command.ref) if self.session.ledger is not None else None
        if counted is not None and counted.days:
            from glimber.core.practice.tally import uses_words

            at_work = uses_words(counted)
            self.uses.setToolTip(tip(f"Counted at work: {at_work}"))
            if counted.enough:
                self.uses.setPlaceholderText(at_work)
                return
        else:
            self.uses.setToolTip(tip(""))
        guess = weekly_uses(folio, command)[0] / folio.settings.working_days
        self.uses.setPlaceholderText(f"unknown; assumed {guess:g}")

    def _show_group(self, folio: Folio, command: Command, same: bool) -> None:
        """Show the group and the context, with the others to choose from. ``same``: the command was in front before."""
        program, group = folio.programs[command.program], folio.group_of(command)
        groups = [one.name for one in program.groups.values()]
        for combo, choices, here in (
            (self.group, groups, group.name if group is not None else ""),
            (self.context, list(program.contexts), command.context or ""),
        ):
            line = combo.lineEdit()
            if same and line is not None and line.hasFocus():
                continue  # another name is being typed
            combo.blockSignals(True)
            combo.clear()
            combo.addItems(["", *choices])
            combo.setCurrentText(here)
            combo.blockSignals(False)
        for combo, chosen in ((self.ink, group.ink if group else ""), (self.mark, group.mark if group else "")):
            combo.setCurrentText(chosen)
            combo.setEnabled(group is not None)

    def _row_visible(self, widget: QWidget, visible: bool) -> None:
        self._form.setRowVisible(widget, visible)

    def _show_keys(self, folio: Folio, command: Command) -> None:
        before = self.keys.currentRow()
        self.keys.blockSignals(True)
        shown = [(place_words(folio, binding.trigger), self._where(binding)) for binding in self.bindings()]
        self.keys.show_rows([TextRow(words_of(trigger), (trigger, where)) for trigger, where in shown])
        self.keys.setCurrentRow(max(0, min(before, self.keys.count() - 1)))
        self.keys.blockSignals(False)
        self.keys.setFixedHeight(6 + 30 * min(3, self.keys.count()))
        self._row_visible(self.keys, self.keys.count() > 0)
        self._show_binding()
        departed = next((one for one in departures(folio, command.program) if one.command == command.ref), None)
        known = bool(folio.programs[command.program].defaults)
        self.default.setText(f"came with {' or '.join(departed.default) or 'no key'}" if departed else "as it came")
        self.back.setVisible(departed is not None)
        self.default.setVisible(known)

    def _where(self, binding: Binding) -> str:
        here = self.session.computer
        if not binding.computers:
            return ""
        return ", ".join(f"{name} (this one)" if name == here else name for name in binding.computers)

    def bindings(self) -> tuple[Binding, ...]:
        """Return the bindings of the command in front."""
        return self.session.folio.bindings_of.get(self.ref or "", ())

    def binding(self) -> Binding | None:
        """Return the binding in front."""
        bindings, row = self.bindings(), self.keys.currentRow()
        return bindings[row] if 0 <= row < len(bindings) else None

    def _show_binding(self) -> None:
        binding = self.binding()
        for field, value in ((self.reason, binding.reason if binding else None),
                             (self.computers, ", ".join(binding.computers) if binding else None)):  # fmt: skip
            field.setEnabled(binding is not None)
            field.put(value or "")
        self.computers.setToolTip(tip(f"This computer is called {self.session.computer}"))

    def _show_seconds(self) -> None:
        t, steps = theme(), self.steps()
        fault = next((fault for step in steps if (fault := step_fault(step))), None)
        if fault is not None:
            self.seconds.setText(fault)
        elif self.ref is not None:
            folio = self.session.folio
            ledger = self.session.ledger
            counted = ledger.at_work(self.ref) if ledger is not None else None
            uses, guessed = weekly_uses(
                folio, folio.commands[self.ref], {self.ref: counted} if counted is not None else None
            )
            each = slow_way_s(steps)
            self.seconds.setText(
                "no slow way on record" if each is None
                else f"{each:.1f} s each time, {each * uses:.0f} s a week" + (" by an assumed count" if guessed else "")
            )  # fmt: skip
        self.seconds.setStyleSheet(f"color: {t.slip if fault else t.quiet}")

    def steps(self) -> tuple[str, ...]:
        """Return the slow way as it is written just now."""
        return tuple(line.strip() for line in self.slow.toPlainText().splitlines() if line.strip())

    # Edits

    def _send(self, what: str, **fields: object) -> None:
        ref = self.ref
        if ref is None:
            return
        self._edit(
            f"change {what} of {self.session.folio.commands[ref].name}", lambda folio: edit_command(folio, ref, **fields)
        )

    def _edit(self, name: str, change: Callable[[Folio], Folio]) -> None:
        try:
            self.session.edit(name, change)
        except (EditError, StoreError) as error:
            self.session.notified.emit(str(error))
            self.show_command(self.ref)

    def _on_edited(self, field: Field, what: str, read: Callable[[str], object]) -> None:
        command = self.session.folio.commands.get(self.ref or "")
        if command is None or not field.isModified():
            return
        field.setModified(False)
        try:
            value = read(field.text())
        except ValueError as error:
            self.session.notified.emit(str(error))
            self.show_command(self.ref)
            return
        if value != getattr(command, what):
            self._send(what.replace("_", " "), **{what: value})

    def _slow_left(self) -> None:
        command = self.session.folio.commands.get(self.ref or "")
        if command is not None and self.steps() != command.slow_way:
            self._send("the slow way", slow_way=self.steps())

    def _group_said(self) -> None:
        command = self.session.folio.commands.get(self.ref or "")
        if command is None:
            return
        name, here = self.group.currentText().strip(), self.session.folio.group_of(command)
        if name.casefold() != (here.name.casefold() if here else ""):
            self._edit(
                f"put {command.name} in {name or 'no group'}", lambda folio: put_in_group(folio, [command.ref], name)
            )

    def _look_said(self) -> None:
        command = self.session.folio.commands.get(self.ref or "")
        group = self.session.folio.group_of(command)
        if command is None or group is None:
            return
        ink, mark = self.ink.currentText(), self.mark.currentText()
        if (ink, mark) != (group.ink, group.mark):
            self._edit(
                f"change the look of {group.name}", lambda folio: put_in_group(folio, [command.ref], group.name, ink, mark)
            )

    def _context_said(self) -> None:
        command = self.session.folio.commands.get(self.ref or "")
        if command is None:
            return
        context = self.context.currentText().strip() or None
        if context == command.context:
            return

        def change(folio: Folio) -> Folio:
            if context is not None:
                folio = add_context(folio, command.program, context)
            return edit_command(folio, command.ref, context=context)

        self._edit(f"change the context of {command.name}", change)

    def _binding_said(self, what: str, value: object) -> None:
        binding = self.binding()
        if binding is not None and value != getattr(binding, what):
            self._edit(
                f"change {what} of {binding.trigger}", lambda folio: edit_binding(folio, binding.id, **{what: value})
            )

    def take_off(self) -> None:
        """Take the key in front off the command, which then waits on the bench if it was the last."""
        binding = self.binding()
        if binding is not None:
            self._edit(f"take {binding.trigger} off", lambda folio: retire_binding(folio, binding.id))

    def back_to_default(self) -> None:
        """Give the command the keys its program came with."""
        ref = self.ref
        if ref is not None:
            command = self.session.folio.commands[ref]
            self._edit(
                f"back to the default of {command.name}", lambda folio: back_to_defaults(folio, command.program, [ref])
            )

    def sizeHint(self) -> QSize:
        return QSize(336, 400)


class _Keys(PaintedRow):
    """A binding: its trigger as chips, and where it is."""

    def __init__(self, keys: TextList) -> None:
        super().__init__(keys, (120, 30))
        self._keys = keys

    def put(self, painter: QPainter, box: QRectF, index: Index) -> None:
        value = self._keys.row(index.row()).value
        assert isinstance(value, tuple)
        trigger, where = value
        used = put_chips(painter, box.adjusted(6, 0, -6, 0), [trigger])
        if where:
            put_text(painter, box.adjusted(used + 14, 0, -6, 0), where, 11, 400, QColor(theme().quiet))


def _or_none(text: str) -> str | None:
    return text.strip() or None


def _uses(text: str) -> float | None:
    if not text.strip():
        return None
    try:
        return float(text.replace(",", "."))
    except ValueError:
        raise ValueError(f"{text!r} is not a number of uses a day; expected 0 or more, or nothing") from None
