"""Source files and kept results for workers that do not share the server's folder."""
