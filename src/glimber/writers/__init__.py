"""Writers: one module a kind of system that a change can be set in. Each is a function from what is set there now, as bytes, and
what is wanted, to the bytes that set it; it touches nothing itself. It is found by the entry point group ``glimber.writers``.
"""
