"""What is said of a build: the engine that runs the rules, its findings joined by place, and what is still open."""
