"""Paths of our own: made from the cut, written as a program, judged by the simulation of that program."""
