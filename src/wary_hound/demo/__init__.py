"""The demo: Marram Ridge Observatory's telescope nights, in six releases, with snapshots, book and journey."""
