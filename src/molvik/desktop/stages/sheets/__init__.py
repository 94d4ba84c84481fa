"""Sheets: what goes to the bench and is handed over."""

from molvik.desktop.stages.entry import Entry

ENTRY = Entry("molvik.desktop.stages.sheets.page:SheetsPage")
