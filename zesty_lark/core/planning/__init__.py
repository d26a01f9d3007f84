"""The planner: what is asked, passes followed, roughing and finish, the quickest plan, every method, one's own, and
why."""
