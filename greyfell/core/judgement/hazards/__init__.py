"""Hazards: what on a piece can hurt, one declaration a danger, by theme.

Never "only" of any HV output, and never "safe" for want of data. Local codes and licensed practice
stand above anything said here.
"""
