"""An acorn as a drawing in millimetres: a shell that was left open by half a millimetre, a cap, and a stalk."""

HEAD = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<svg xmlns="http://www.w3.org/2000/svg" width="48mm" height="62mm" viewBox="0 0 48 62">\n'
)
SHELL = "M8 26C8 42 15 53 24 58C33 53 40 42 40 26L8.5 26"
CAP = "M4 24C4 12 13 7 24 7C35 7 44 12 44 24C38 27 10 27 4 24Z"
STALK = "M23.2 7.5C22.8 5 22.2 3 20.8 1.2L25.2 1.2C25.4 3.4 25.2 5.6 25 7.5Z"
CORD = "M14 30C17 40 20 46 24 51"


def draw_acorn() -> bytes:
    """The SVG file."""
    ink = 'fill="none" stroke="#2a2d2e" stroke-width="0.6" stroke-linecap="round"'
    return (
        HEAD
        + f'<g id="acorn"><path d="{CAP}" fill="#2a2d2e"/><path d="{STALK}" fill="#2a2d2e"/>'
        + f'<path d="{SHELL}" {ink}/><path d="{CORD}" {ink}/></g>\n</svg>\n'
    ).encode()
