"""The hours ahead: forecasts, windows of coats and steps, cards, remedies, two ways compared, what was seen on the wall.

Not here: the laws (core.windows), or who works when (planning).
"""
