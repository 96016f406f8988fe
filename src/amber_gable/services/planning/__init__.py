"""Who works when: the schedule, the morning of each job, where to stop on a wall.

Not here: the hours ahead (outlook).
"""
