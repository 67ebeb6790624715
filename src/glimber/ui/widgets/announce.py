"""Announcements to screen readers: what happens without the focus going anywhere."""

from __future__ import annotations

from PySide6.QtGui import QAccessible, QAccessibleAnnouncementEvent
from PySide6.QtWidgets import QWidget


def announce(widget: QWidget, text: str, urgent: bool = False) -> None:
    """Have a screen reader say a text; ``urgent`` ones interrupt what it is saying. Nothing without a reader."""
    if not text or not QAccessible.isActive():
        return
    event = QAccessibleAnnouncementEvent(widget, text)
    politeness = QAccessible.AnnouncementPoliteness
    event.setPoliteness(politeness.Assertive if urgent else politeness.Polite)
    QAccessible.updateAccessibility(event)
