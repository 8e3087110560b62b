"""One table of what is typed and what it means: the reader on the server and the candidates in the browser are held to it."""

from __future__ import annotations

from botin.core.catalog.product import Card, Kind, Parallel, Product, Section

PRODUCT = Product(
    "t",
    "T",
    sections=(
        Section("base", "Base", Kind.BASE),
        Section("late", "Late Variations", Kind.VARIATION),
        Section("plates", "Signed Plates", Kind.AUTOGRAPH),
    ),
    cards=(
        *(Card("base", str(number), f"Rider {number}", "Harbour") for number in range(1, 40)),
        Card("base", "40", "Zoë Ångström", "Nørrebro"),
        Card("base", "41", "Øyvind Łasz", "Harbour"),
        Card("base", "42", "Orla Thorsby", "Harbour"),
        Card("base", "43", "Юлия Гончар", "Volga"),
        Card("late", "40", "Zoë Ångström", "Nørrebro"),
        Card("plates", "S-1", "Orla Thorsby", "Harbour"),
        Card("plates", "S-11", "Ib Weiß", "Harbour"),
    ),
    parallels=(Parallel("copper", "Copper", "base"), Parallel("gold", "Gold Leaf", "base", run_text="25")),
)

SQUEEZED = [
    ("S-1", "s1"),
    ("s 1", "s1"),
    ("1-5", "1-5"),
    ("1 – 5", "1-5"),
    ("15", "15"),
    ("Zoë Ångström", "zoeangstrom"),
    ("ØYVIND ŁASZ", "oyvindlasz"),
    ("Weiß", "weiss"),
    ("Юлия", "юлия"),
    ("Signed Plates", "signedplates"),
    ("№ 7", "no7"),
    ("", ""),
]

OFFERED = [
    ("42", ("base", "42")),
    ("zoe", ("base", "40")),
    ("zoë ång", ("base", "40")),
    ("oyv", ("base", "41")),
    ("ØYVIND Ł", ("base", "41")),
    ("thors", ("base", "42")),
    ("юли", ("base", "43")),
    ("weiss", ("plates", "S-11")),
    ("WEIß", ("plates", "S-11")),
    ("s1", ("plates", "S-1")),
    ("S-11", ("plates", "S-11")),
    ("12 zoe", ("base", "40")),
    ("1-5", None),
    ("q", None),
    ("nobody", None),
]
"""What is typed, and the card that is offered first; None where nothing may be."""
