"""How the network of depths is made: shapes and pictures drawn by this code, and the training. Nothing here ships."""
