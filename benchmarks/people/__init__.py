"""Simulated people with planted troubles, to ask whether what was planted is what is found.

They were written and committed before the rules that judge them were tuned, share no code with those rules, and are not the
demo's person. What differs from the model's assumptions on purpose: knowledge comes by an exponential of its own for every
binding and fades overnight, errors grow over a tiring day, hands scatter unevenly, and each person errs in a way of their own.
"""
