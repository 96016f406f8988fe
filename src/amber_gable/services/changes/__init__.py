"""The one door through which rows change: who, when, before and after; undo; forms taken once; whose a row is.

Not here: what is changed (the rooms beside it), or how rows are stored (store).
"""
