"""Track files in and out: CSV, TRC and landmark JSON, and the sidecar beside them."""

from waxtwin.formats.registry import FormatError, formats, read_track, write_track

__all__ = ["FormatError", "formats", "read_track", "write_track"]
