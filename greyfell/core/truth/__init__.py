"""Forward: what a test would show on a given piece. The truth side: it knows nothing of belief or
judgement.
"""
