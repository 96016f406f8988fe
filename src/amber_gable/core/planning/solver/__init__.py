"""Solver: places tasks on a grid of steps under permitted starts, waits, crew and equipment, and proves how good the plan is.

Inside: the problem as values, a list scheduler, a CP-SAT model, conflicts of tasks that do not fit together.
Elsewhere: where tasks, permitted starts and waits come from (planning), who does what by name (planning), the request's form (services).
"""
