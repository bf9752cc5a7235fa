"""What the API says and hears, as the typed client sees it; one file a subject."""
