"""A small shop of a transit authority, as files in a folder: written by hand, easy to add up."""

from __future__ import annotations

from pathlib import Path

MODEL = """\
dastan: model/1
name: tickets
caption: Tickets sold
tables:
  sales: {file: sales.csv}
  lines: {file: lines.csv}
  days: {calendar: {}}
relationships:
  - {from_table: sales, from_column: day, to_table: days, to_column: date, role: day}
  - {from_table: sales, from_column: line, to_table: lines, to_column: line, role: line}
dimensions:
  - name: line
    caption: Line
    table: lines
    key: line
    all: All lines
    without: without a line
    attributes:
      - {name: mode, caption: Mode, key: mode}
      - {name: line, caption: Line, key: line, caption_column: name}
    hierarchies:
      - {name: line, levels: [mode, line]}
  - name: calendar
    caption: Calendar
    table: days
    key: date
    all: All dates
    attributes:
      - {name: year, caption: Year, key: year}
      - {name: month, caption: Month, key: month, caption_column: month_caption}
    hierarchies:
      - {name: calendar, levels: [year, month]}
  - name: seller
    caption: Seller
    table: sales
    attributes:
      - {name: seller, caption: Seller, key: seller}
    hierarchies:
      - {name: seller, levels: [seller]}
measures:
  - {name: sold, caption: Sold, table: sales, aggregate: sum, expression: quantity}
  - {name: takings, caption: Takings, table: sales, aggregate: sum, expression: quantity * price, format: "#,##0.00", unit: cr}
  - {name: sales, caption: Sales, table: sales, aggregate: count}
filters:
  - {name: from_kiosks, caption: from kiosks, condition: {dimension: seller, hierarchy: seller, members: [[Kiosk]]}}
  - name: big_lines
    caption: big lines
    condition:
      {kind: measure, measure: sold, at: [{dimension: line, hierarchy: line, level: line}], operator: more, values: [{prompt: big_from}]}
prompts:
  - {name: big_from, caption: How many make a line big?, type: number}
roles:
  - {name: trams, caption: the tram desk, conditions: [{dimension: line, hierarchy: line, members: [[Tram]]}]}
"""

SALES = """\
day,line,seller,quantity,price
2024-01-05,T1,Kiosk,3,1.25
2024-02-05,T1,Kiosk,1,0.10
2024-02-07,F1,Boat,2,10.99
2025-02-07,F1,Boat,,0.99
2025-03-01,,Kiosk,1,5.00
2025-03-02,X9,Kiosk,4,0.05
"""

LINES = """\
line,name,mode
T1,Shore tram,Tram
T2,Hill tram,Tram
F1,Island ferry,Ferry
"""


def write_folder(folder: Path, **changed: str | bytes) -> Path:
    """Writes the shop, with some of its files changed (`sales`, `lines`, `model`) or left out (empty name)."""
    files: dict[str, str | bytes] = {"model.yaml": MODEL, "sales.csv": SALES, "lines.csv": LINES}
    for name, content in changed.items():
        files["model.yaml" if name == "model" else f"{name}.csv"] = content
    for name, content in files.items():
        (folder / name).write_bytes(content.encode() if isinstance(content, str) else content)
    return folder
