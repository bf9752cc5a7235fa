"""Patches of surface laid flat: charts, and the ways to make them."""
