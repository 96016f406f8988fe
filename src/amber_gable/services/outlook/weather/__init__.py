"""Weather of a place: the client of the service, forecasts as they are kept, weather read in from files.

Not here: what walls make of it (outlook), or the stand-in that answers (standins).
"""
