"""Garbage collection on the interface thread only.

Python collects in whichever thread happens to make an object too many. A worker would destroy widgets, models and items of
what was closed while the interface thread is in the middle of Qt, and that ends in a crash now and then.
"""

from __future__ import annotations

import gc
from typing import ClassVar

from PySide6.QtCore import QAbstractEventDispatcher, QCoreApplication, QObject, Qt, Slot


class Collector(QObject):
    """Does what Python's own collector would do, by its thresholds, when the event loop is about to wait: then nothing stands
    between a key and what it paints. From the moment there is one, Python's own is off."""

    _one: ClassVar[Collector | None] = None

    def __init__(self, app: QCoreApplication) -> None:
        super().__init__(app)
        gc.disable()

    @classmethod
    def of(cls, app: QCoreApplication) -> Collector:
        """Return the collector of an application, made at the first call."""
        # To look among the application's children would load classes of Qt that the first frame does not need.
        if cls._one is None:
            cls._one = cls(app)
        return cls._one

    def start(self) -> None:
        """Begin to collect. What there is now is as old as the window: it need not be looked through again."""
        gc.collect()
        gc.freeze()
        dispatcher = QAbstractEventDispatcher.instance()
        if dispatcher is not None:
            dispatcher.aboutToBlock.connect(self._collect_due, Qt.ConnectionType.UniqueConnection)

    @Slot()
    def _collect_due(self) -> None:
        counts, limits = gc.get_count(), gc.get_threshold()
        due = [generation for generation in range(3) if counts[generation] > limits[generation]]
        if due:
            gc.collect(due[-1])
