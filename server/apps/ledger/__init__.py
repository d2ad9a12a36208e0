"""Everything a workspace has tried, over trials and years."""
