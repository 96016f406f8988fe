"""The survey: what a building is and of what it is made (building), what ails it (evidence), what stands round it (around).

bundle: a job as one document · quick: a first price from counts. Not here: the walls' geometry (core.geometry).
"""
