"""Hours of the walls as they are shown: ribbons, cards, the stop line, the sky as seen.

Not here: decisions (services), or drawing (drawing).
"""
