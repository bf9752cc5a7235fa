"""What a printer that lays one layer on another will do with a solid, before it does it."""
