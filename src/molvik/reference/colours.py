"""Wire colours: the codes, their names and how manuals of different countries write them.

Source of the two-letter codes: IEC 60757. Beyond it, manuals need light and dark shades and tan;
their codes here (LB, LG, DB, DG, TN) are Molvik's own. The dialects are common practice in
manuals.
"""

NAMES: dict[str, str] = {
    "BK": "black",
    "BN": "brown",
    "RD": "red",
    "OG": "orange",
    "YE": "yellow",
    "GN": "green",
    "BU": "blue",
    "VT": "violet",
    "GY": "grey",
    "WH": "white",
    "PK": "pink",
    "GD": "gold",
    "TQ": "turquoise",
    "SR": "silver",
    "LB": "light blue",
    "DB": "dark blue",
    "LG": "light green",
    "DG": "dark green",
    "TN": "tan",
}

PAINT: dict[str, str] = {
    "BK": "#1F1F1F",
    "BN": "#7A4A24",
    "RD": "#C62822",
    "OG": "#E2781B",
    "YE": "#E8C618",
    "GN": "#2C8C43",
    "BU": "#2A5CAA",
    "VT": "#6B3A98",
    "GY": "#8C8F94",
    "WH": "#F7F6F1",
    "PK": "#E79AB0",
    "GD": "#B5953B",
    "TQ": "#2FA6A6",
    "SR": "#C3C6CA",
    "LB": "#86BDE6",
    "DB": "#1C3566",
    "LG": "#8CCB72",
    "DG": "#1D5A31",
    "TN": "#C9AE84",
}
"""How a colour is painted on the screen and in print, as #RRGGBB."""

IEC = {code: code for code in NAMES}

DIALECTS: dict[str, dict[str, str]] = {
    "IEC 60757": IEC,
    "German": {
        "sw": "BK",
        "br": "BN",
        "rt": "RD",
        "ro": "RD",
        "or": "OG",
        "ge": "YE",
        "gn": "GN",
        "bl": "BU",
        "vi": "VT",
        "li": "VT",
        "gr": "GY",
        "ws": "WH",
        "rs": "PK",
    },
    "North American": {
        "BLK": "BK",
        "BRN": "BN",
        "RED": "RD",
        "ORN": "OG",
        "YEL": "YE",
        "GRN": "GN",
        "BLU": "BU",
        "PPL": "VT",
        "VIO": "VT",
        "GRY": "GY",
        "WHT": "WH",
        "PNK": "PK",
        "TAN": "TN",
        "LT BLU": "LB",
        "DK BLU": "DB",
        "LT GRN": "LG",
        "DK GRN": "DG",
    },
    "single letters": {
        "B": "BK",
        "L": "BU",
        "G": "GN",
        "GR": "GY",
        "LG": "LG",
        "V": "VT",
        "Y": "YE",
        "R": "RD",
        "W": "WH",
        "P": "PK",
        "BR": "BN",
        "O": "OG",
        "SB": "LB",
    },
    "English words": {
        **{name.upper(): code for code, name in NAMES.items()},
        "GRAY": "GY",
        "PURPLE": "VT",
        "SKY BLUE": "LB",
    },
}
"""How each dialect writes the colours. German is in lower case; the others in capitals."""


def colour_name(base: str, tracer: str = "") -> str:
    """Return a colour in words: "violet, white tracer"."""
    name = NAMES.get(base, base)
    return f"{name}, {NAMES.get(tracer, tracer)} tracer" if tracer else name
