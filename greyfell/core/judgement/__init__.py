"""Judgement: what is wrong, what may hurt, what is allowed; every judge takes the record and the
belief.

Faults first, then screening and verdict, then hazards, which see the faults.
"""
