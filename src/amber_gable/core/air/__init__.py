"""The air outside: humidity, sun and sky, hours of weather and their even grid, how far forecasts err.

Not here: what a surface makes of it (wall), or whether a coat may go on (windows).
"""
