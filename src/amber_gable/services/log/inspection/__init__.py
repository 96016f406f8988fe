"""Inspection: when a side may be judged and in which light (looking), marks and where they stand (marks), the work they ask for
(touchup), the owner's walk (ownerwalk).

Not here: how long a film takes to dry (core.coat), what was coated when (log.record).
"""
