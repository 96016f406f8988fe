"""Jobs: their facts, states and house rules, and how far each stage is.

Not here: the building of a job (survey), or its hours (outlook).
"""
