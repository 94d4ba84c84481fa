"""Everything that knows Qt: the window, the theme, the stages and their widgets.

The window's store (desktop/store.py) holds the job. store.do(text, edit) pushes old and new onto
one QUndoStack and emits its one signal, changed(old, new). Undo, redo and the recovery copy need
nothing else. A run of edits undone as one (a paste) sets store.batch: rows follow each edit, the
rest of the window the end of the run.

Large jobs. After an edit the page and the panel show what is known at once (known_now), and fill_in
the rest when the job was looked over in the background. Network and the ProofPlan of Proving take
over from the job before an edit what it cannot have changed; what others compute of a network once
has a typed key that says what it reads (netlist/cache.py). Tables sort their own rows, lists make
nothing for what is not in view. benchmarks/freezes.py says how long each action holds the
interface.

What is in hand (desktop/hand.py) is one subject for the whole window: W12, C3/5, F2, X3. The panel
knows no kind of thing: it finds the card of the stage (registry.card_of), shows its story, what was
found about it (widgets/problems.py), its fields to type into (widgets/fieldrows.py), what every
stage knows of it (Entry.facts_at orders that), and the rest folded (widgets/fold.py).

Tables (widgets/table.py, things.py) are columns of functions. widgets/fitting.py gives columns the
room there is, shows and hides them and keeps the choice; Column.unit stands in the heading only. A
work list beside a table groups and filters it (sizes/groups.py, survey/groups.py); it never repeats
it.

Commands are declared once, in desktop/menus.py or as a stage's Action; menus, Find and the list of
keys read them. desktop/panels.py folds the panel. An empty page shows a widgets/guide.py; what it
offers on another page goes by StagePage.wish. The words on the screen are in docs/words.md;
tests/test_words.py holds every text (scripts/texts.py lists them) and page to it. Texts are written
in one English; where a job wants the other, Analysis.spoken says findings and sheets in it,
desktop/speaking.py the window, cli/answers.py the command line, and leaves what was typed as it was
typed.
"""
