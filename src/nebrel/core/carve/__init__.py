"""The relief as work for a router: what a bit can reach, passes over the heights, and the program of them."""
