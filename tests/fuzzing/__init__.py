"""Hostile input of every kind: how it is made (strategies.py), what is promised of it (targets.py),
and the child processes in which each input is tried (nursery.py). tools/fuzz.py makes new ones;
tests/test_corpus.py tries those that once broke something."""
