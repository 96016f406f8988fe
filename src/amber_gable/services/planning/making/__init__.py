"""How the plan of all jobs is made: jobs laid out on a frame of steps, given to the crew, and what moved since the last one."""
