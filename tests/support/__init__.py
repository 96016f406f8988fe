"""What several test files share: applications on a set clock, weather, pages sent and read, rows compared.

Not here: fixtures (conftest), or tests.
"""
