"""Relief panels."""
