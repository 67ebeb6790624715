"""The window around the rooms, and the sheets that lie over any room."""
