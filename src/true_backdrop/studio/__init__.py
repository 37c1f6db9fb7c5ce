"""The outside devices: camera, lamps and table, behind Protocols; and the simulated studio that ships."""
