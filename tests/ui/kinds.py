"""What the fixtures of these tests are: ``settle`` lets events pass until something holds, ``open_room`` opens a folder's window."""

from collections.abc import Callable
from typing import Any

Settle = Callable[..., None]
OpenRoom = Callable[..., Any]
