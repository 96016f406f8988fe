"""Take-off of a job: paint, sundries, access, labour and price; what was agreed and what changed since."""
