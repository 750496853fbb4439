"""The web application: parse, ask the core, render. One blueprint per screen."""
