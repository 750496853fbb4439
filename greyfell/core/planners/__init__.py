"""Planners: one declaration each, in a module of its own; page, command line, schema, docs and the
walking tests are derived from it.

`declare` is what a declaration is made of, `registry` lists them.
"""
