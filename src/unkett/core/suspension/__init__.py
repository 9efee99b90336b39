"""The suspension of one bike: both ends as they are set, what to change next, what is felt and what knocks."""
