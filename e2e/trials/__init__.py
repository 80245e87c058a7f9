"""Trials: the running application is killed, flooded, sent nonsense and looked at by many, and has to lose nothing.

``bin/trial`` runs all of it and prints figures; short forms are among the end-to-end tests.
"""
