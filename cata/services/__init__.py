"""What a user can do: one function an action. A service owns its transaction and starts the work that follows."""
