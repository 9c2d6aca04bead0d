"""What a proof says."""

Claim = tuple[bool, str]
"""Whether something holds, and what, in a sentence."""
