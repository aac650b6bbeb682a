"""Tables, migrations, the undo log, and the vault that keeps audio by its content."""
