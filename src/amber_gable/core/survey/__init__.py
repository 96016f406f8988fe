"""What is found on and round a house: tests on site, gates, ways up to a wall, the walk, a quick survey, heights without a ladder.

Not here: outlines and areas (geometry), or what follows for the paint (systems).
"""
