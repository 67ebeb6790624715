"""The import that is being prepared: the selected source's rows against the folio, what is ticked, and corrections.

The page and the table both show this, and both change it.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from glimber.core.model.folio import EVERYWHERE, Folio
from glimber.core.notation.keys import Trigger
from glimber.ui.gather.desk import Reading
from glimber.ui.gather.views.model import IncomingRows, Origin

if TYPE_CHECKING:
    from glimber.core.edit.compare import Incoming
    from glimber.readers.corrections import Corrections
    from glimber.readers.found import Found, Row
    from glimber.ui.gather.checks import Check

_KINDS = ("new", "more", "changed", "conflict", "renamed", "gone", "yours", "same")


class Offer:
    """The same correction for other rows: what they have in common, how many they are, and what corrects them."""

    def __init__(self, words: str, count: int, carry_out: Callable[[], object]) -> None:
        self.words, self.count, self.carry_out = words, count, carry_out


class Importing(QObject):
    """Emits ``changed`` when rows, ticks or corrections change, and ``compared`` when the rows were compared again."""

    changed = Signal()
    compared = Signal()

    def __init__(self, parent: QObject) -> None:
        """``parent`` ends it, in its own thread: what only Python knows of may be collected in another."""
        super().__init__(parent)
        self.folio: Folio | None = None
        self.reading: Reading | None = None
        self.program = ""
        self.new_version = False
        self.rows = IncomingRows(self)
        self.rows.dataChanged.connect(lambda *_: self.changed.emit())
        self.offer: Offer | None = None
        self._corrections: Corrections | None = None
        self._checks: list[Check] | None = None

    # What it is about

    @property
    def found(self) -> Found | None:
        """Everything found in the selected source."""
        return self.reading.found if self.reading is not None else None

    @property
    def corrections(self) -> Corrections:
        """The corrections of rows of this source."""
        if self._corrections is None:
            from glimber.readers.corrections import Corrections

            self._corrections = Corrections()
        return self._corrections

    def show_folio(self, folio: Folio) -> None:
        """The folio is another."""
        self.folio = folio
        self.compare()

    def show_reading(self, reading: Reading, program: str | None, fresh: bool) -> None:
        """Another source is in front, or the same read again; ``program`` where it is known which it is of."""
        self.reading = reading
        if fresh:
            self._corrections, self.offer = None, None
            self.rows.forget_choices()
        if program is None and fresh and self.folio is not None:
            program = self._likely_program(reading)
        if program is not None:
            self.program = program
        self.compare()

    def _likely_program(self, reading: Reading) -> str | None:
        from glimber.core.edit.compare import Incoming, likely_program

        assert self.folio is not None
        rows = [Incoming(row.command, row.triggers) for row in reading.found.rows]
        likely = EVERYWHERE if reading.kind == "gsettings" else likely_program(self.folio, rows)
        known = self.folio.programs.get(likely or "")
        return known.name if known else "Everywhere" if likely else reading.program or None

    def put_away(self) -> None:
        """Nothing is read any more."""
        self.reading, self._checks, self.offer = None, None, None
        self.rows.show([], [])
        self.compared.emit()

    def set_program(self, name: str) -> None:
        """The commands are of this program."""
        if name != self.program:
            self.program = name
            self.compare()

    def set_new_version(self, is_one: bool) -> None:
        """They are the program's own set after a new version, or not."""
        if is_one != self.new_version:
            self.new_version = is_one
            self.compare()

    def program_id(self) -> str:
        """Return the id of the program chosen or typed."""
        from glimber.core.edit.program_name import program_id_of

        return program_id_of(self.program.strip(), self.folio.programs if self.folio is not None else {})

    def can_merge(self) -> bool:
        """Return True if the folio knows what the program came with, so that a new version can be merged."""
        id = self.program_id()
        return self.folio is not None and id in self.folio.programs and bool(self.folio.programs[id].defaults)

    def is_merging(self) -> bool:
        """Return True if they are the program's own set after a new version."""
        return self.new_version and self.can_merge()

    # The rows against the folio

    def incoming(self) -> list[Incoming]:
        """Return the rows as they were read, those that were corrected as they are meant."""
        if self.found is None:
            return []
        from glimber.core.edit.compare import Incoming
        from glimber.readers.corrections import corrected

        return [Incoming(row.command, row.triggers, row.group, row.note, row.slow_way, row.words, row.keys_of)
                for row in corrected(self.found, self.corrections)]  # fmt: skip

    def compare(self, tick: Iterable[str] = ()) -> None:
        """Compare the rows with the folio; ``tick`` names commands, as they were read, that were just chosen."""
        folio, found = self.folio, self.found
        self._checks = None
        if folio is None or found is None:
            return
        from glimber.core.edit.compare import compare, merged

        rows = self.incoming()
        merging = self.is_merging()
        origins = self._origins(found)
        differences = compare(folio, self.program_id(), rows, merging)
        ordered = [origins.get(row.name.casefold(), Origin()) for row in merged(rows)]
        chosen = [self.corrections.name_of(name) for name in tick]
        self.rows.show(differences, ordered + [Origin()] * (len(differences) - len(ordered)), merging, chosen)
        self.compared.emit()
        self.changed.emit()

    def _origins(self, found: Found) -> dict[str, Origin]:
        """Return what stood in the source, by the name a command goes by; one that comes several times has all of it."""
        from glimber.readers.sureness import SURE

        origins: dict[str, Origin] = {}
        for row in found.rows:
            name = self.corrections.name_of(row.command).casefold()
            known = origins.get(name, Origin(row.line, read_as=row.command))
            keys = " or ".join(part for part in (known.keys, " ".join(row.keys.split())) if part)
            decided = row.command.casefold() in self.corrections.decided
            remark = "" if decided else "; ".join(part for part in (known.remark, row.remark) if part)
            origins[name] = replace(known, keys=keys, remark=remark, sure=known.sure and (decided or row.sure >= SURE))
        return origins

    def checks(self) -> list[Check]:
        """Return what is to be looked at before it is imported, in the order of the page."""
        if self._checks is None:
            from glimber.ui.gather.checks import checks_of

            pairs = list(zip(self.rows.differences, self.rows.origins, strict=True))
            self._checks = checks_of(pairs, self.found, self.corrections) if self.found is not None else []
        return self._checks

    def open_checks(self) -> list[Check]:
        """Return those that were not decided yet."""
        return [check for check in self.checks() if not check.decided]

    def place_of(self, read_as: str) -> int | None:
        """Return the place among the rows of a command as it was read; None where it is none of them."""
        return self.rows.place_of(self.corrections.name_of(read_as))

    def summary(self) -> str:
        """Summarize the source in a line."""
        folio, reading, id = self.folio, self.reading, self.program_id()
        if folio is None or reading is None:
            return ""
        from glimber.core.edit.defaults import departures

        kinds: list[str] = [one.kind for one in self.rows.differences]
        counts = ", ".join(f"{kinds.count(kind)} {kind}" for kind in _KINDS if kinds.count(kind))
        departed = departures(folio, id) if id in folio.programs else []
        own = f"; {len(departed)} differ from what it came with" if departed else ""
        waiting = f"; {len(self.open_checks())} to check" if self.open_checks() else ""
        second = f" (or {reading.second}: Y)" if reading.second else ""
        return f"{reading.name}, read as {reading.kind}{second}: {counts or 'no rows'}{own}{waiting}"

    # Corrections

    def mend(self, read_as: str, trigger: Trigger) -> None:
        """Give a row these keys, whatever was understood."""
        from glimber.readers.corrections import like_keyed

        assert self.found is not None
        others = like_keyed(self.found, read_as, str(trigger))
        offer = _offer("the same word for a key", others,
                       lambda: self._correct(self.corrections.with_keys(others), others))  # fmt: skip
        self._correct(self.corrections.with_keys({read_as: (str(trigger),)}), [read_as], offer)

    def offered(self, read_as: str) -> tuple[str, ...]:
        """Return the keys that reach a row's command as well, such as the letters of its menus, which it does not have yet."""
        row = next((row for row in self._readable() if row.command == read_as), None)
        return self._not_yet(row) if row is not None else ()

    def _keys_of(self, row: Row) -> tuple[str, ...]:
        return self.corrections.keys.get(row.command.casefold(), row.triggers)

    def _not_yet(self, row: Row) -> tuple[str, ...]:
        return tuple(one for one in row.offered if one not in self._keys_of(row))

    def add_offered(self, read_as: str) -> None:
        """Give a row the keys that reach it as well, as an alternate."""
        rows = {row.command: row for row in self._readable() if self._not_yet(row)}

        def keys_of(names: Iterable[str]) -> dict[str, tuple[str, ...]]:
            return {name: (*self._keys_of(rows[name]), *self._not_yet(rows[name])) for name in names}

        if read_as not in rows:
            return
        alike = [name for name, row in rows.items() if name != read_as and row.group == rows[read_as].group]
        offer = _offer("the letters of its menus too", alike,
                       lambda: self._correct(self.corrections.with_keys(keys_of(alike)), alike))  # fmt: skip
        self._correct(self.corrections.with_keys(keys_of([read_as])), [read_as], offer)

    def rename(self, read_as: str, name: str) -> None:
        """Give a row's command another name."""
        from glimber.readers.corrections import like_renamed

        others = like_renamed(self._readable(), read_as, name)
        offer = _offer("the same text there", others,
                       lambda: self._correct(self.corrections.with_names(others), others))  # fmt: skip
        self._correct(self.corrections.with_names({read_as: name}), [read_as], offer)

    def drop(self, read_as: str) -> None:
        """Note that a row is no shortcut; one that was dropped is one again."""
        from glimber.readers.corrections import like_dropped

        if read_as.casefold() in self.corrections.dropped:
            self._correct(self.corrections.restore(read_as), [])
            return
        others = like_dropped(self._readable(), read_as)
        offer = _offer("the same doubt", others, lambda: self._correct(self.corrections.drop(others), []))
        self._correct(self.corrections.drop([read_as]), [], offer)

    def turn(self, read_as: str) -> bool:
        """Exchange a row's command and keys; False where its command cannot be read as keys."""
        from glimber.readers.corrections import like_turned

        others = like_turned(self._readable(), read_as)
        return self._turn([read_as], _offer("the same order", others, lambda: self._turn(others)))

    def _turn(self, names: Sequence[str], offer: Offer | None = None) -> bool:
        from glimber.readers.corrections import turned

        wanted = set(map(str.casefold, names))
        both = {row.command: turned(row) for row in self._readable() if row.command.casefold() in wanted}
        found = {name: one for name, one in both.items() if one is not None}
        if not found:
            return False
        corrections = self.corrections.with_keys({name: triggers for name, (_, triggers) in found.items()})
        self._correct(corrections.with_names({name: new for name, (new, _) in found.items()}), found, offer)
        return True

    def decide(self, read_as: str, take: bool) -> None:
        """Import a row that was looked at, or leave what the folio has."""
        self._corrections = self.corrections.decide([read_as])
        if not take:
            self.rows.leave_out(self.corrections.name_of(read_as))
        self.compare([read_as] if take else ())

    def carry_out_offer(self) -> bool:
        """Do to the others what was done to one; False where nothing is offered."""
        offer, self.offer = self.offer, None
        if offer is None:
            return False
        offer.carry_out()
        return True

    def _readable(self) -> list[Row]:
        from glimber.readers.found import for_this_system

        return for_this_system(self.found) if self.found is not None else []

    def _correct(self, corrections: Corrections, tick: Iterable[str], offer: Offer | None = None) -> None:
        """Use other corrections; the rows named in ``tick`` are imported."""
        self._corrections, self.offer = corrections, offer
        self.compare(tick)


def _offer(words: str, others: Collection[str], carry_out: Callable[[], object]) -> Offer | None:
    return Offer(words, len(others), carry_out) if others else None
