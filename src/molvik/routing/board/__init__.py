"""A loom at full size, as one builds from it: one unit of the drawing is a millimetre.

``lay`` puts the loom on the board, ``callouts`` says what goes into which cavity at each plug,
``patterns`` how coverings, what holds them and what they pass are told apart without colour,
``dimensions`` what is measured from where and how exactly, ``pegs`` where pins and forks go,
``framing`` the legend and the title block, and ``sheet`` puts it all together, each thing with its
layer and its code.
"""
