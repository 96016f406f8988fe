"""The machine that the application runs on: its addresses and certificate, the data folder, opening, back-ups, health.

Not here: what one running application holds (app), or who acts (scope).
"""
