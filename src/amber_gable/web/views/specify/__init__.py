"""Systems and colours for their pages.

Not here: decisions (services), or drawing (drawing).
"""
