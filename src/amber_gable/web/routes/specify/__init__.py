"""Routes of systems: what goes on and why, colours, data sheets.

Not here: what they call (services).
"""
