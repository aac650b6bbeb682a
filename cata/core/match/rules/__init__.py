"""The audit: one function a rule. A rule looks at evidence and returns findings, worst first for the person."""
