"""Whatever judges a solid."""

from nebrel.core.proof.finding import Finding, Severity
from nebrel.core.proof.soundness import Soundness, check_soundness

__all__ = ["Finding", "Severity", "Soundness", "check_soundness"]
