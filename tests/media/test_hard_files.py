"""Files as the world has them: spliced, mutated, mislabelled, on slow disks. Each has its own error."""

from __future__ import annotations

import io
from contextlib import suppress
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from mutagen.id3 import ID3, TDRC, TIT2
from PIL import Image

from tests.faults import break_file, slow_disk
from tests.signals import RATE_HZ, drum_loop
from vinyl.core.analysis import analyse
from vinyl.media.decode import decode
from vinyl.media.encode import ENCODINGS, encode
from vinyl.media.errors import MediaError
from vinyl.media.listening import FRAME_BYTES, ListeningCopies, NotReadyError
from vinyl.media.pictures import PictureError, small_jpeg
from vinyl.media.probe import probe
from vinyl.media.tags import read_tags

LOOP = drum_loop(120.0, 0.3, 6.0)


@pytest.fixture(scope="module")
def whole(tmp_path_factory: pytest.TempPathFactory) -> dict[str, bytes]:
    """The same loop in every format."""
    folder = tmp_path_factory.mktemp("whole")
    made = {}
    for form, encoding in ENCODINGS.items():
        path = folder / f"loop{encoding.suffix}"
        encode(LOOP, RATE_HZ, path, form)
        made[form] = path.read_bytes()
    return made


def test_a_year_in_superscript_digits_is_no_year_and_no_fault(
    whole: dict[str, bytes], tmp_path: Path
) -> None:
    path = tmp_path / "x.mp3"
    path.write_bytes(whole["mp3"])
    tags = ID3()
    tags.add(TIT2(encoding=3, text="Foghorn"))
    tags.add(TDRC(encoding=3, text="²⁰²⁴"))
    tags.save(path)
    assert (read_tags(path).title, read_tags(path).year) == ("Foghorn", None)


def test_a_splice_of_two_rates_plays_to_its_end(whole: dict[str, bytes], tmp_path: Path) -> None:
    other = tmp_path / "48.mp3"
    encode(LOOP, 48000, other, "mp3")
    spliced = tmp_path / "spliced.mp3"
    spliced.write_bytes(whole["mp3"] + other.read_bytes())
    lasts_s = 6.0 + 6.0 * RATE_HZ / 48000
    assert decode(spliced).duration_s == pytest.approx(lasts_s, abs=0.2)
    copies = ListeningCopies(tmp_path / "copies")
    assert len(copies.read("x", spliced, round(9.0 * RATE_HZ), 1000)) == 1000 * FRAME_BYTES


@pytest.mark.parametrize("form", ["m4a", "wav", "aiff", "mp3", "flac", "opus"])
@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(changes=st.lists(st.tuples(st.integers(0, 5999), st.integers(0, 255)), min_size=1, max_size=12))
def test_a_mutated_file_is_read_or_refused_in_words(
    whole: dict[str, bytes], tmp_path: Path, form: str, changes: list[tuple[int, int]]
) -> None:
    mutated = bytearray(whole[form])
    for at, value in changes:
        mutated[at % len(mutated)] = value
    path = tmp_path / f"mutated{ENCODINGS[form].suffix}"
    path.write_bytes(mutated)
    read_tags(path)
    for look in (probe, decode):
        with suppress(MediaError):
            look(path)


def test_a_kind_of_sound_that_nothing_decodes_is_no_audio(whole: dict[str, bytes], tmp_path: Path) -> None:
    """The tag of its format, at byte 20, is one that nobody has given away."""
    path = tmp_path / "strange.wav"
    for tag in (0x7777, 0x0000, 0xAC44):
        path.write_bytes(whole["wav"][:20] + tag.to_bytes(2, "little") + whole["wav"][22:])
        for look in (probe, decode):
            with pytest.raises(MediaError):
                look(path)


def test_a_list_of_other_files_is_no_audio(tmp_path: Path, whole: dict[str, bytes]) -> None:
    (tmp_path / "secret.flac").write_bytes(whole["flac"])
    path = tmp_path / "list.mp3"
    path.write_text(f"ffconcat version 1.0\nfile '{tmp_path / 'secret.flac'}'\n")
    for look in (probe, decode):
        with pytest.raises(MediaError):
            look(path)


def test_a_broken_file_ends_the_wait_for_its_listening_copy(whole: dict[str, bytes], tmp_path: Path) -> None:
    path = tmp_path / "broken.flac"
    path.write_bytes(whole["flac"])
    break_file(path, 0.001)
    with pytest.raises(MediaError) as refused:
        ListeningCopies(tmp_path / "copies").read("x", path, 0, 1000)
    assert not isinstance(refused.value, NotReadyError)


def test_a_slow_disk_is_said_and_is_no_silence(whole: dict[str, bytes], tmp_path: Path) -> None:
    path = tmp_path / "loop.wav"
    path.write_bytes(whole["wav"])
    copies = ListeningCopies(tmp_path / "copies", wait_s=0.1)
    with slow_disk("vinyl.media.listening._pcm", 0.6):
        with pytest.raises(NotReadyError, match="slow"):
            copies.read("x", path, 0, 1000)
        copies = ListeningCopies(tmp_path / "copies", wait_s=20)
        assert np.frombuffer(copies.read("y", path, RATE_HZ, 1000), np.int16).any()


def test_pictures_are_limited_by_kind_and_size() -> None:
    good, huge = io.BytesIO(), io.BytesIO()
    Image.new("RGB", (900, 600), "teal").save(good, "PNG")
    Image.new("1", (9000, 9000)).save(huge, "PNG")
    assert Image.open(io.BytesIO(small_jpeg(good.getvalue(), 300))).size == (300, 200)
    for data in (b"", b"\xff\xd8\xff\xe0 no picture", good.getvalue()[:200], huge.getvalue()):
        with pytest.raises(PictureError):
            small_jpeg(data, 300)


@pytest.mark.parametrize("bpm", [304.9, 320.0, 28.0])
def test_a_tempo_beyond_the_limits_is_folded_and_not_refused(bpm: float) -> None:
    found = analyse(drum_loop(bpm, 0.2, 20.0))
    assert found.grid is None or 30.0 <= found.grid.tempo_map.bpm <= 300.0
