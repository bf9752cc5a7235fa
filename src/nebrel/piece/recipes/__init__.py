"""Recipes: the settings of a piece without what it was made of, to be laid on others."""
