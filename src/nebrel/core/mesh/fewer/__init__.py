"""Fewer triangles by collapsing edges, within a bound that holds on both sides wherever one is given."""
