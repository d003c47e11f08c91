"""One library for an academy: rows on a PostgreSQL server, clips in a folder that every machine reaches."""
