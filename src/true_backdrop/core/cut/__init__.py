"""The cut: from a frame and the backdrop frame to alpha, product colour and shadow.

The model is the compositing equation I = a F + (1 - a) s B (after Porter and Duff 1984, with the
backdrop B dimmed by a shadow factor s). Which side of the outline a pixel lies on is decided once, on a
small proxy (`evidence`, `region`); the opacity in the narrow band along the outline is computed at
whatever size is wanted (`edge`).
"""
