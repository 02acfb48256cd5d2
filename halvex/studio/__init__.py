"""The application: store and history, edits, live sessions, exports. It knows the job through
`halvex.core` only."""
