"""The HTTP API whole: every route is registered once its module is imported."""

from halvex.web import routes, tones
from halvex.web.operations import OPERATIONS, Operation, api

__all__ = ["OPERATIONS", "Operation", "api", "routes", "tones"]
