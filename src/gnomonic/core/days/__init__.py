"""Who does what when: tasks of a plan, crew and calendar, the schedule, the weather, what was done."""
