"""Track files in and out: CSV, TRC and landmark JSON, and the sidecar beside them."""
