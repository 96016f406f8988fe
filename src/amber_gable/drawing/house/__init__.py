"""The house: elevations, the band of all sides, surfaces and openings, ladders, the stop line on a wall.

Not here: hours (hours), or paint (paint).
"""
