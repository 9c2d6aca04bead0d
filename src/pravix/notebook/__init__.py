"""Pravix as a small Python API: the same work as the commands do, with objects that show as tables.

import pravix

sheet = pravix.read("deliveries.csv")
sheet.keys
sheet.dependencies(standing="believed")
design = sheet.accept("village -> district", why="the register says so").design
design.tables["keeper"].frame()
design.write("tables")
"""

from pravix.notebook.folder import OpenedFolder, open_folder, write_demo
from pravix.notebook.listing import Listing
from pravix.notebook.reviewing import DesignReview, review
from pravix.notebook.sheet import Sheet, SheetDesign, read
from pravix.notebook.sheets import Sheets, SheetsDesign, read_all

__all__ = [
    "DesignReview",
    "Listing",
    "OpenedFolder",
    "Sheet",
    "SheetDesign",
    "Sheets",
    "SheetsDesign",
    "open_folder",
    "read",
    "read_all",
    "review",
    "write_demo",
]
