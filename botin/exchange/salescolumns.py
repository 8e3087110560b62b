"""The columns of ``sales.csv``: one row a copy; what belongs to a whole sale stands in each of its rows."""

from __future__ import annotations

from botin.exchange.tables import Column, TableSpec

SALES = TableSpec(
    "sales",
    (
        Column("sale", "Number that rows of one sale share; empty: each row is a sale"),
        Column("sold_on", "Day of the sale", required=True, also=("date", "day", "sold", "sold on")),
        Column("channel", "Where it was sold", also=("where", "venue", "site")),
        Column("product", "Key or name of the product", required=True, also=("set", "series")),
        Column("section", "Section of the card", also=("subset", "insert")),
        Column("number", "Number of the card", required=True, also=("no", "card", "#")),
        Column("parallel", "Finish", also=("finish", "variation")),
        Column("serial", "Serial, 7/25"),
        Column("grade", "Grade, empty for a raw card"),
        Column("price", "Price of the copy", required=True, also=("sold for", "amount")),
        Column("currency", "Currency of the amounts"),
        Column("fee", "Fee of the channel", also=("fees",)),
        Column("buyer", "Who bought it", also=("to", "customer")),
        Column("state", "done, or where it stands"),
    ),
)
