"""The sculpted wax figure: its skeleton, how a body's landmarks move it, and how it is painted. No interface code."""
