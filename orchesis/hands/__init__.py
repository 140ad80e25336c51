"""Who plays what. For now the plain rules; the solver moves in later."""

from orchesis.hands.lanes import assign

__all__ = ["assign"]
