"""Long proofs, against real processes: load, kills, fuzzing. Short seeded forms run in `make test`, the full ones in `make soak`.

Not here: what is tested within one process (the other folders).
"""
