"""Everything that knows Qt: the window, the theme, the stages and their widgets."""
