"""The log of a site: the record of work and what follows from it, readings on the wall and what they teach.

Not here: palm and meter (outlook.sightings), tasks (takeoff.tasks), the plan of what is left (planning).
"""
