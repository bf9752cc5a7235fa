"""The house itself: which rooms know which."""
