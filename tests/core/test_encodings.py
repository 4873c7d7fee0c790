"""Texts read in a wrong encoding come back as they were meant, and right ones are left alone."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vinyl.core.encodings import repaired

JAPANESE = ("灯台の朝", "潮見坂", "夜のフェリー", "Lighthouse の 朝")
CYRILLIC = ("Крабовий Вальс", "Оркестр Дюна", "ХВИЛІ", "Волна над городом")
LATIN = (
    "Ånd i Tåken",
    "Ängelholm",
    "Łódź",
    "Señor Mañana",
    "ÆØÅ",
    "Über alles Blau",
    "naïve café",
    "Ça va déjà",
    "Ö",
    "ß",
)


@pytest.mark.parametrize("text", [*JAPANESE, *CYRILLIC, *LATIN, "Σαλόνι", "שלום", "夜🌙"])
def test_utf_8_read_as_latin_1_or_as_windows_1252_comes_back(text: str) -> None:
    for wrong in ("latin-1", "cp1252"):
        try:
            read = text.encode("utf-8").decode(wrong)
        except UnicodeDecodeError:  # windows-1252 has no letter for some bytes
            continue
        found = repaired(read)
        assert found is not None and (found.text, found.encoding) == (text, "UTF-8")
        assert repaired(found.text) is None, "once is enough"


@pytest.mark.parametrize("text", JAPANESE)
def test_shift_jis_comes_back(text: str) -> None:
    found = repaired(text.encode("cp932").decode("latin-1"))
    assert found is not None and (found.text, found.encoding) == (text, "Shift-JIS")


@pytest.mark.parametrize("text", CYRILLIC)
def test_windows_1251_comes_back(text: str) -> None:
    found = repaired(text.encode("cp1251").decode("latin-1"))
    assert found is not None and (found.text, found.encoding) == (text, "Windows-1251")


@pytest.mark.parametrize("text", LATIN)
def test_words_with_accents_are_left_alone(text: str) -> None:
    assert repaired(text) is None


@given(st.text(alphabet="abcdefghijklmnopqrstuvwxyzåäöéèüñçß ABCÅÄÖ", max_size=30))
def test_no_mix_of_plain_and_accented_letters_is_taken_for_japanese(text: str) -> None:
    found = repaired(text)
    assert found is None or found.encoding != "Shift-JIS"
