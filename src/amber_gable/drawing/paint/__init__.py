"""Paint: cans, the film in cross-section, the order of strokes, a tip's wear, a price's spread.

Not here: the house itself (house).
"""
