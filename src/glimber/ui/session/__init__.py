"""Shared by the rooms: the session, edits, jobs, actions, and the host protocol."""
