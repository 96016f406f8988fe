"""Work of a job: the record of what was done, and the state of every step that follows from it.

Elsewhere: tasks (takeoff.tasks), the plan of what is left (planning), readings and sightings (log, outlook).
"""
