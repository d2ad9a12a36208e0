"""Files that come in, read by a confined process and kept within a quota."""
