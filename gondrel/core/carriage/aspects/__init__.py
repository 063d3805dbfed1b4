"""Every way in which an item carries a thing: how it is read, compared, gained and said, declared once.

One module for each kind of subject; inventory, forecast, proof and the proof of meshes walk their tables.
"""
