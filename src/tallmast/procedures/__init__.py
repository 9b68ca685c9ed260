"""What is done step by step with single keys: knows instruments, findings and the notebook, and no interface."""
