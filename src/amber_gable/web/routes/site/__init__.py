"""Routes of the site: my day, the log, inspection, kit, what a phone needs and hears.

Not here: what they call (services).
"""
