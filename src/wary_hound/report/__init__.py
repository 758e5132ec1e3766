"""What people look at: terminal tables, plots, HTML reports."""
