"""Height fields as solids: error-bounded triangulation, walls, and the deviation measured afterwards."""
