"""Simulated learners, to ask whether the planner's minutes are better spent than by other ways of choosing.

They share no code with the planner, and none of the three families is its model: one forgets by a power of time with a rate of
its own for each person and binding, one has a part that goes within a day and one that lasts, and one is an exponential whose
stability grows with every success, most with one that was nearly forgotten.
"""
