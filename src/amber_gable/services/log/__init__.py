"""The site log: readings on the wall and what they say.

Not here: palm and meter (outlook.sightings).
"""
