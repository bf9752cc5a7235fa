"""Files of outlines: SVG and DXF, read as they are seen and written at true size."""
