"""What people call functions, in pinouts and on labels, read as the words used here.

reading takes short forms, joined words and other languages apart; words has phrases and noise;
telling says what is meant, and by which numbers it is told from its like.
"""
