"""The report: what an athlete is told, as a document, and that document as HTML, PDF and a clip."""
