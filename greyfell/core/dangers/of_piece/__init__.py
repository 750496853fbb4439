"""What a piece itself does, by theme, the gravest first.

Never "only" of any HV output, and never "safe" for want of data. Local codes and licensed practice
stand above anything said here.
"""
