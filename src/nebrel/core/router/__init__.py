"""The simulated router: it reads programs as text, moves bits through a stock, and tells what they did there.

It shares no code with what plans and writes programs, so that a fault there is seen here.
"""
