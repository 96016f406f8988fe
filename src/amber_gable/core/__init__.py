"""The job itself: rules and computation, as values in and values out.

No web, database, files (but for the shipped knowledge tables), network, clock or global state.
Arrays are [surface, instant]; temperatures in °C, times in UTC.
"""
