"""Decisions: verdicts, candidates, forecasts, plans, rearranging, settling."""
