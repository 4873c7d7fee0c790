"""Nights and sets as files that the browser takes."""

from __future__ import annotations

from urllib.parse import quote

from fastapi.responses import Response

from vinyl.exchange.night_files import SUFFIXES, Form, NightFile

KINDS: dict[Form, str] = {
    "text": "text/plain",
    "m3u8": "application/vnd.apple.mpegurl",
    "cue": "text/plain",
    "csv": "text/csv",
}


def file_out(made: NightFile, name: str, form: Form) -> Response:
    """A file under a name, with what could not be said in it in a header of its own."""
    headers = {
        "Content-Disposition": f"attachment; filename*=UTF-8''{quote(name + SUFFIXES[form])}",
        "X-Left-Out": quote("; ".join(made.left_out)),
    }
    return Response(made.text, media_type=f"{KINDS[form]}; charset=utf-8", headers=headers)
