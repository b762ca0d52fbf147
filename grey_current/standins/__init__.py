"""Stand-ins for outside devices behind small interfaces: nothing here needs hardware."""
