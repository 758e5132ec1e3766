"""Judging by real histories of pages: what of locators and relocations proved right."""
