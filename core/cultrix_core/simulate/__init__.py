"""Stand-ins with a known truth: ground that varies, and later the devices that measure on it."""
