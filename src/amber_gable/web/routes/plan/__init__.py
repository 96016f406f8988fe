"""Routes of windows and plan: start page, hours of the walls, schedule, crew, timesheets.

Not here: what they call (services).
"""
