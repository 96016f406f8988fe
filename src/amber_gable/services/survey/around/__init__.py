"""What stands round a house: trees, ways up, the shade on it, its sun side, what overspray would meet.

Not here: the weather itself (outlook).
"""
