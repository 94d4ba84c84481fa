"""The shipped typeface, B612 and B612 Mono, for the screen and for print (LICENSE-B612.txt)."""
