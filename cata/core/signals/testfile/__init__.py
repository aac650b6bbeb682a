"""The test file: what is played through a device so that it can be measured."""
