"""Readers of lists of shortcuts: one module a kind of source, each a function from bytes to rows and problems.

A reader never raises, whatever it is given. It is found by the entry point group ``glimber.readers``.
"""
