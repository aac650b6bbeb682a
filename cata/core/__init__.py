"""The rules of the job and all computation: pure functions on values."""
