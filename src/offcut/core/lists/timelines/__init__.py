"""Timelines: OTIO, and XML and AAF by its adapters; read in a process apart."""
