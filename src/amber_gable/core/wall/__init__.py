"""What a surface does in the weather: its temperature and dew, heat in a thick wall, its own shade, water in and on it.

`climate` joins them for all surfaces of a house. Not here: weather and sun (air), or paint on it (coat).
"""
