"""Meters and testers, real ones by VISA and the stand-in that ships.

visa asks, within a time and a size for the whole answer, and asks for errors after each command,
whose form shows an answer that is not of its question; answers says what is a number; supply is
switched off whatever happens, offguard has a process of its own (offprocess) do it when the program
dies; tester asks about leads that hang in the air. Stand-ins build on scpi, the words of IEEE
488.2. tests/odd_instruments.py answers as instruments do on a bad day.
"""
