"""The building: blocks, and the elevations, surfaces and openings that follow; items and areas.

Not here: what ails it (evidence), or what stands round it (around).
"""
