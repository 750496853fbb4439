"""Practice without danger: hidden pieces, simulated instruments, what a wrong move would do."""
