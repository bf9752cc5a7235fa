"""Where heights jump: lines with a height on either side."""
