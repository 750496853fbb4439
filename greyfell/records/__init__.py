"""What is kept: pieces with their append-only evidence, and cached conclusions. SQLAlchemy on
SQLite.
"""
