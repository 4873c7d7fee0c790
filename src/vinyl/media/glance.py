"""A quick look at a file that seems whole: its facts and a name for its sound from a few pieces of it.

Reading every packet of a file costs a hundred times as much as its tags do. Here only the head, the end and
four pieces of the sound are read; whatever is not just as it should be is left to ``vinyl.media.probe``,
which reads all, and the analysis hears the whole of every file anyway.
"""

from __future__ import annotations

import hashlib
import struct
from dataclasses import replace
from pathlib import Path

import av
from av.audio.stream import AudioStream
from av.container import InputContainer
from av.packet import Packet
from mutagen.flac import FLAC
from mutagen.mp3 import MP3, BitrateMode

from vinyl.media.decode import open_audio, packets_of
from vinyl.media.errors import MediaError
from vinyl.media.flac_frames import first_frame, last_frame
from vinyl.media.mp3_info import read_info
from vinyl.media.probe import (
    MISSING_S,
    MISSING_SHARE,
    SoundFacts,
    check_container_size,
    decoded_samples,
    skip_samples,
)

# Pieces of the sound that its name is made of, spread evenly, and the bytes of each.
PIECES, PIECE_BYTES = 4, 16384
# FFmpeg reads so much of a file to find out what it is; with less it takes uncompressed sound for no sound.
PROBE_BYTES = "32768"
# Containers in which the bytes of the sound stay as they are when tags are written.
STEADY_FORMATS = frozenset({"mov,mp4,m4a,3gp,3g2,mj2", "wav", "aiff"})
TRIAL_PACKETS = 2
# Codecs whose samples have a number of bits.
WITH_DEPTH = frozenset(
    {"flac", "alac", "pcm_s16le", "pcm_s24le", "pcm_s32le", "pcm_s16be", "pcm_s24be", "pcm_u8"}
)
# So much of the end is read to see that it is there.
END_S = 1.0
# An MP3 decoder gives so many samples before the first that the encoder was given (LAME's own figure).
DECODER_DELAY = 529
# Bytes after the sound of an MP3 file that tags may take; more is another file that was put behind it.
LARGEST_TAIL_BYTES = 65536


def with_parsed(facts: SoundFacts, parsed: object) -> SoundFacts:
    """Facts with what mutagen knows more of: the bits of a sample, and whether the bit rate varies."""
    info = getattr(parsed, "info", None)
    depth = getattr(info, "bits_per_sample", None) if facts.codec in WITH_DEPTH else None
    varies = getattr(info, "bitrate_mode", None) in (BitrateMode.VBR, BitrateMode.ABR)
    return replace(facts, depth_bits=depth or None, variable_rate=varies)


def glance(path: Path, parsed: object) -> SoundFacts | None:
    """Facts of a file that seems whole, or None for one that must be read from end to end.

    Args:
        parsed: the file as mutagen sees it, or None.
    """
    try:
        if isinstance(parsed, MP3):
            return _glance_mp3(path, parsed)
        return _glance_flac(path, parsed) if isinstance(parsed, FLAC) else _glance_container(path)
    except (MediaError, av.FFmpegError, OSError, ValueError, struct.error):
        return None


def _glance_mp3(path: Path, parsed: MP3) -> SoundFacts | None:
    info = parsed.info
    if info.layer != 3 or info.sketchy:
        return None
    size = path.stat().st_size
    with path.open("rb") as file:
        file.seek(info.frame_offset)
        said = read_info(file.read(4096))
    if said is None:
        return None
    tail = size - info.frame_offset - said.size_bytes
    if tail < 0 or tail > LARGEST_TAIL_BYTES:
        return None
    samples = said.frames * (1152 if info.version == 1 else 576) - said.delay - said.padding
    form = f"mp3 {info.sample_rate} {info.channels}"
    name = _name(path, form, info.frame_offset, info.frame_offset + said.size_bytes)
    if name is None or samples <= 0:
        return None
    duration_s = samples / info.sample_rate
    constant = info.bitrate_mode == BitrateMode.CBR
    return SoundFacts(
        codec="mp3",
        rate_hz=info.sample_rate,
        channels=info.channels,
        bit_rate=info.bitrate if constant else round(8 * said.size_bytes / duration_s),
        duration_s=duration_s,
        trimmed_samples=said.delay + DECODER_DELAY if said.delay else 0,
        padding_samples=said.padding,
        sampled_hash=name,
    )


def _glance_flac(path: Path, parsed: FLAC) -> SoundFacts | None:
    info, size = parsed.info, path.stat().st_size
    with path.open("rb") as file:
        begins, last = first_frame(file), last_frame(file, size)
    if begins is None or last is None or not info.total_samples or info.min_blocksize != info.max_blocksize:
        return None
    if last != (info.total_samples - 1) // info.max_blocksize:
        return None
    name = _name(path, f"flac {info.sample_rate} {info.channels}", begins, size)
    if name is None:
        return None
    return SoundFacts(
        codec="flac",
        rate_hz=info.sample_rate,
        channels=info.channels,
        bit_rate=round(8 * size / info.length),
        duration_s=info.length,
        trimmed_samples=0,
        sampled_hash=name,
    )


def _glance_container(path: Path) -> SoundFacts | None:
    check_container_size(path)
    with open_audio(path, probesize=PROBE_BYTES) as (container, stream):
        if container.format.name not in STEADY_FORMATS or not stream.duration or not stream.time_base:
            return None
        packets = packets_of(container, stream)
        first = next(packets)
        trimmed = skip_samples(first)
        begins = first.pos
        decoded = decoded_samples(first) + sum(
            decoded_samples(packet) for _, packet in zip(range(TRIAL_PACKETS - 1), packets, strict=False)
        )
        last = _last_packet(container, stream)
        if not decoded or begins is None or last is None or last.pos is None or last.pts is None:
            return None
        said_s = float(stream.duration * stream.time_base)
        read_s = float((last.pts + (last.duration or 0)) * stream.time_base)
        if abs(said_s - read_s) > max(MISSING_S, MISSING_SHARE * said_s):
            return None
        context = stream.codec_context
        form = f"{context.codec.canonical_name} {context.sample_rate} {context.channels}"
        name = _name(path, form, begins, last.pos + last.size)
        if name is None:
            return None
        return SoundFacts(
            codec=context.codec.canonical_name,
            rate_hz=context.sample_rate,
            channels=context.channels,
            bit_rate=stream.bit_rate or round(8 * path.stat().st_size / said_s),
            duration_s=min(said_s, read_s),
            trimmed_samples=trimmed,
            sampled_hash=name,
        )


def _last_packet(container: InputContainer, stream: AudioStream) -> Packet[AudioStream] | None:
    """The last packet that is there, found from near where the end should be."""
    end, step = stream.duration or 0, END_S / float(stream.time_base or 1)
    container.seek((stream.start_time or 0) + max(0, round(end - step)), stream=stream)
    last = None
    for packet in packets_of(container, stream):
        if packet.size:
            last = packet
    return last


def _name(path: Path, form: str, begins: int, ends: int) -> str | None:
    """A name for the sound between two bytes of a file; None where a piece of it is a hole."""
    digest = hashlib.blake2b(f"{form} {ends - begins}".encode(), digest_size=20)
    with path.open("rb") as file:
        for number in range(PIECES):
            at = begins + max(0, ends - begins - PIECE_BYTES) * number // (PIECES - 1)
            file.seek(at)
            piece = file.read(min(PIECE_BYTES, ends - begins))
            if form.startswith("mp3") and piece.count(0) == len(piece):
                return None
            digest.update(piece)
    return digest.hexdigest()
