"""Every use against every piece of the demo shelf, as a table in docs/uses.md. Run:
python scripts/write_uses.py [--check]
"""

import sys
from pathlib import Path

from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.uses.all_uses import USES
from greyfell.core.uses.core_to_wind import barred, iron_of
from greyfell.core.uses.fit import fit
from greyfell.core.uses.kept_project import as_it_is
from greyfell.records.demo import demo_documents

FILE = Path(__file__).parent.parent / "docs" / "uses.md"
SHORT = {"as it is": "as it is", "fits": "fits", "fits after": "after", "does not": "no"}


def verdicts():
    """Piece by piece: its tag, title, and a verdict for each planned use."""
    for document in demo_documents():
        ident = identify(parse_record(document))
        why = barred(ident)
        iron = None if why else iron_of(ident)
        row = []
        for use in (u for u in USES if not u.refused):
            own = as_it_is(ident, use)
            if own is not None and own.does:
                row.append("as it is")
            elif iron is None:
                row.append("barred")
            else:
                row.append(SHORT[fit(iron, use).verdict])
        yield document["tag"], document.get("title", ""), row


def text():
    """The whole file."""
    planned = [u for u in USES if not u.refused]
    lines = [
        "# Uses against the demo shelf",
        "",
        "Written by `scripts/write_uses.py`. “After” names a change on the piece's own page; “no”",
        "the figure that fails and the nearest change; “barred” why nothing is wound on it.",
        "",
        "| piece | " + " | ".join(u.key for u in planned) + " |",
        "|---" * (len(planned) + 1) + "|",
    ]
    for tag, title, row in verdicts():
        lines.append(f"| {tag} {title} | " + " | ".join(row) + " |")
    lines += ["", "Refused, whatever the piece:", ""]
    lines += [f"- {u.title}: {u.refused}" for u in USES if u.refused]
    return "\n".join(lines) + "\n"


def main():
    new = text()
    if "--check" in sys.argv:
        if FILE.read_text(encoding="utf-8") != new:
            sys.exit(f"{FILE} is stale: run python scripts/write_uses.py")
        return
    FILE.write_text(new, encoding="utf-8")


if __name__ == "__main__":
    main()
