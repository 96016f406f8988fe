"""The survey: what a building is, of what it is made, what ails it, what stands round it.

rows: between tables and geometry · blocks, alone: what the building is made of · rebuild: elevations
and surfaces follow · openings, surfaces, items: what stands on them · findings, photos, site_tests:
what ails them · features: what stands round · gates: lead and asbestos · walk, quick: on the phone.
"""
