"""Routes of the survey: blocks, openings, findings, tests, the walk round the house, files in and out.

Not here: what they call (services).
"""
