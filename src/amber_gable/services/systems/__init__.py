"""Systems of a job: what is known of each part (parts), what goes on it (specs), what was decided by hand (choices)."""
