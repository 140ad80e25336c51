"""What is doubtful in a score and what a person should look at next."""
