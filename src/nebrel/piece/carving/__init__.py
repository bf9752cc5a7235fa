"""A piece as work for a router: what is to be done, what would help, and the sheet for setting it up."""
