"""Heights of a bas-relief from how near everything in a picture is."""
