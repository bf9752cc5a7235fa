"""Changes to a picture: plain functions from `Picture` to `Picture`, lengths in pixels of the array that they get."""
