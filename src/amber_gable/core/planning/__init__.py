"""Who does what when: coats as tasks, the schedule, the one thing to do next, where to stop on a wall.

Not here: the hours in which a coat may go on (windows), or hours of work (takeoff).
"""
