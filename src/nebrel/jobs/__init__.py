"""Long work in worker processes, and the workshop that everything else is handed."""
