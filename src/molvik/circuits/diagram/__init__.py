"""The whole job as a diagram of current tracks: rails above, earth below, each piece in a track of
its own.

What is drawn follows from the wires (``pieces``): pieces, which are symbols with one or two ends,
hang on lines, which are what wires join without passing anything. ``placing`` gives each piece its
track and row and each line its height, so that by construction no line runs through a symbol and
no two lie on each other; ``tracks`` parts it into pages, ``pagedrawing`` draws one.
"""
