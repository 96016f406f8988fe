"""One crew for all jobs: people and machines, who does what when, what a plan costs, and the search for better ones."""
