"""Use cases: load from the store, call core, save.

The only room that joins store and core; owns transactions and the clock.
"""
