"""Steps kept by key: the cache, the preparation of pictures, and what every kind's evaluator can do."""
