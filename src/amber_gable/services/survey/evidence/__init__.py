"""What was found: findings with photographs, tests on site, gates, the walk round the house.

Not here: the building itself (building).
"""
