"""Reports, sheets and shared pages, made from what the pages say."""
