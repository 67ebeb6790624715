"""The audit: what a folio has that will not work as meant. Each finding says where and, where there is one, the cure."""

from __future__ import annotations

from glimber.core.audit.cache import AuditMemory, audit
from glimber.core.audit.finding import SEVERITIES, Cure, Finding, Severity

__all__ = ["SEVERITIES", "AuditMemory", "Cure", "Finding", "Severity", "audit"]
