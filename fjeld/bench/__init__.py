"""Single questions, each with what is asked and what answers it under a practice."""
