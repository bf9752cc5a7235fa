"""Small stand-ins for what lies outside of this machine."""
