"""Sheets bent over forms: walls whose thickness along the form's normal is true, and the parts that hold them."""
