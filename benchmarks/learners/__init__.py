"""Simulated learners, to ask whether the planner's minutes are better spent than by simpler ways of choosing.

They and the simpler ways were written and committed before the planner was tuned, and share no code with it. Neither family of
memory is the planner's model: one forgets by a power of time with a rate of its own for each person and binding, the other by
an exponential whose stability grows with every success, most with one that was nearly forgotten.
"""
