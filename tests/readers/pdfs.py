"""PDF documents written by hand, as small as they can be."""

from __future__ import annotations

from collections.abc import Sequence


def placed_pdf(pieces: Sequence[tuple[float, float, str]]) -> bytes:
    """Return a page with texts at (x, y), in points from its lower left corner; ``\\256`` is a ligature."""
    drawn = "".join(f"BT /F1 8 Tf {x} {y} Td ({text}) Tj ET\n" for x, y, text in pieces)
    objects = [
        "<< /Type /Catalog /Pages 2 0 R >>",
        "<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
        "<< /Type /Page /Parent 2 0 R /MediaBox [0 0 612 792] /Contents 4 0 R /Resources << /Font << /F1 5 0 R >> >> >>",
        f"<< /Length {len(drawn)} >>\nstream\n{drawn}endstream",
        "<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>",
    ]
    out, places = b"%PDF-1.4\n", []
    for number, body in enumerate(objects, start=1):
        places.append(len(out))
        out += f"{number} 0 obj\n{body}\nendobj\n".encode()
    table = "".join(f"{place:010} 00000 n \n" for place in places)
    head = f"xref\n0 {len(objects) + 1}\n0000000000 65535 f \n{table}"
    return out + f"{head}trailer << /Size {len(objects) + 1} /Root 1 0 R >>\nstartxref\n{len(out)}\n%%EOF".encode()
